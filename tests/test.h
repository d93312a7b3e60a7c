// Tests register themselves here by the name that ctest gives them; a layer's tests are one program (tests/main.cpp).
#pragma once
#include <QTest>

namespace loom::test {

using Run = int (*)(int, char**);
// Called before main() by LOOM_TEST; what a test starts as a process of its own is added by hand.
bool add(const char* name, Run run);

} // namespace loom::test

#define LOOM_TEST(name, Class)                                                                                         \
    static const bool name##Added = loom::test::add(#name, [](int argc, char** argv) {                                 \
        Class test;                                                                                                    \
        return QTest::qExec(&test, argc, argv);                                                                        \
    });
