// test_LAYER NAME [FUNCTION …]: runs one of the layer's tests; without a name it lists them.
#include "test.h"
#ifdef QT_WIDGETS_LIB
#include <QApplication>
using Application = QApplication;
#else
#include <QCoreApplication>
using Application = QCoreApplication;
#endif
#include <cstdio>
#include <map>
#include <string>

namespace loom::test {
namespace {

std::map<std::string, Run>& tests() {
    static std::map<std::string, Run> all;
    return all;
}

} // namespace

bool add(const char* name, Run run) {
    return tests().emplace(name, run).second;
}

} // namespace loom::test

int main(int argc, char** argv) {
    const auto& all = loom::test::tests();
    const auto it = argc < 2 ? all.end() : all.find(argv[1]);
    if (it == all.end()) {
        for (const auto& [name, run] : all)
            std::fprintf(stderr, "%s\n", name.c_str());
        return 2;
    }
#ifdef QT_WIDGETS_LIB
    Application::setAttribute(Qt::AA_Use96Dpi, true);
#endif
    Application app(argc, argv);
    return it->second(argc - 1, argv + 1);
}
