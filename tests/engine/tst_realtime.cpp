// process() neither allocates nor locks: both are intercepted here.
#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the concepts of newer standard headers
#include "engine/demo_program.h"
#include "engine/runner.h"
#endif
#include <QTest>
#include <cstdlib>
#include <dlfcn.h>
#include <new>
#include <pthread.h>

namespace {
thread_local bool watching = false;
thread_local int allocations = 0, locks = 0;
} // namespace

void* operator new(std::size_t size) {
    if (watching)
        ++allocations;
    if (void* p = std::malloc(size ? size : 1))
        return p;
    throw std::bad_alloc();
}
void operator delete(void* p) noexcept {
    if (watching)
        ++allocations;
    std::free(p);
}
void operator delete(void* p, std::size_t) noexcept {
    operator delete(p);
}

extern "C" int pthread_mutex_lock(pthread_mutex_t* m) {
    using Lock = int (*)(pthread_mutex_t*);
    static const Lock real = reinterpret_cast<Lock>(dlsym(RTLD_NEXT, "pthread_mutex_lock"));
    if (watching)
        ++locks;
    return real(m);
}

using namespace loom::engine;

class TestRealtime : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
        QSKIP("the sanitizer stands between this test and the allocator");
#endif
    }
    void theWatchWorks() {
        static pthread_mutex_t m = PTHREAD_MUTEX_INITIALIZER;
        watching = true;
        delete new int(3);
        pthread_mutex_lock(&m);
        watching = false;
        pthread_mutex_unlock(&m);
        QVERIFY(allocations >= 1);
        QCOMPARE(locks, 1);
        allocations = locks = 0;
    }
    void everyBlockWhileEverythingChanges() {
        Program p = test::twoLanes();
        for (const auto& k : blockKinds())
            p.blocks.push_back({"free." + k.id, k.id, ""});
        Runner r(48000, {});
        QVERIFY(bool(r.load(p)));
        r.tap(0, PortRef{"mix", 0});
        for (int round = 0; round < 40; ++round) {
            for (const auto& b : p.blocks) {
                const BlockView v(b);
                for (std::size_t i = 0; i < v.table->size() && i < 60; ++i) {
                    const auto& s = v.table->specs()[i];
                    QVERIFY(bool(r.set(b.id, s.id, round % 2 ? s.min : s.max)));
                }
            }
            if (round % 5 == 0)
                QVERIFY(bool(r.load(p)));
            for (int frame = 0; frame < 30; ++frame) {
                watching = true;
                r.process({}, frame % 3 ? maxFrame : 17);
                watching = false;
            }
            std::vector<float> heard(8192);
            r.readTap(0, heard);
        }
        QCOMPARE(allocations, 0);
        QCOMPARE(locks, 0);
    }
};
QTEST_APPLESS_MAIN(TestRealtime)
#include "tst_realtime.moc"
