// process() neither allocates nor locks: both are intercepted here.
#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the concepts of newer standard headers
#include "dsp/audio_file.h"
#include "engine/block_kind.h"
#include "engine/cable.h"
#include "engine/demo_program.h"
#include "engine/runner.h"
#endif
#include "test.h"
#include <cstdlib>
#include <dlfcn.h>
#include <new>
#include <pthread.h>
#include <shared_mutex>
#include <utility>

// Everything that takes or gives back memory ends in these, whatever form of operator new was used.
extern "C" {
void* __libc_malloc(std::size_t);
void* __libc_calloc(std::size_t, std::size_t);
void* __libc_realloc(void*, std::size_t);
void* __libc_memalign(std::size_t, std::size_t);
void __libc_free(void*);
}

namespace {
thread_local bool watching = false;
thread_local int allocations = 0, locks = 0;

// The true function behind one of ours.
template <class F> F real(const char* name) {
    return reinterpret_cast<F>(dlsym(RTLD_NEXT, name));
}
} // namespace

#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
extern "C" {
void* malloc(std::size_t n) {
    allocations += watching;
    return __libc_malloc(n);
}
void* calloc(std::size_t n, std::size_t size) {
    allocations += watching;
    return __libc_calloc(n, size);
}
void* realloc(void* p, std::size_t n) {
    allocations += watching;
    return __libc_realloc(p, n);
}
void* memalign(std::size_t align, std::size_t n) {
    allocations += watching;
    return __libc_memalign(align, n);
}
void* aligned_alloc(std::size_t align, std::size_t n) {
    allocations += watching;
    return __libc_memalign(align, n);
}
int posix_memalign(void** p, std::size_t align, std::size_t n) {
    allocations += watching;
    *p = __libc_memalign(align, n);
    return *p ? 0 : 12;
}
void free(void* p) {
    allocations += watching;
    __libc_free(p);
}
}
#endif

extern "C" int pthread_mutex_lock(pthread_mutex_t* m) {
    static const auto f = real<int (*)(pthread_mutex_t*)>("pthread_mutex_lock");
    locks += watching;
    return f(m);
}
extern "C" int pthread_rwlock_rdlock(pthread_rwlock_t* m) {
    static const auto f = real<int (*)(pthread_rwlock_t*)>("pthread_rwlock_rdlock");
    locks += watching;
    return f(m);
}
extern "C" int pthread_rwlock_wrlock(pthread_rwlock_t* m) {
    static const auto f = real<int (*)(pthread_rwlock_t*)>("pthread_rwlock_wrlock");
    locks += watching;
    return f(m);
}

using namespace loom;
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
        static std::shared_mutex rw;
        struct alignas(64) Wide {
            float x[16];
        };
        const auto seen = [](const auto& what) {
            allocations = locks = 0;
            watching = true;
            what();
            watching = false;
            return std::pair(std::exchange(allocations, 0), std::exchange(locks, 0));
        };
        // Held in volatile, so that no pair of new and delete is left out by the compiler.
        void* volatile kept = nullptr;
        QVERIFY(seen([&] { kept = new int(3); }).first == 1);
        QVERIFY(seen([&] { delete static_cast<int*>(kept); }).first == 1);
        QVERIFY(seen([&] { kept = new int[100]; }).first == 1);
        QVERIFY(seen([&] { delete[] static_cast<int*>(kept); }).first == 1);
        QVERIFY(seen([&] { kept = new (std::nothrow) double(1); }).first == 1);
        delete static_cast<double*>(kept);
        QVERIFY(seen([&] { kept = new Wide; }).first == 1);
        QVERIFY(seen([&] { delete static_cast<Wide*>(kept); }).first == 1);
        QVERIFY(seen([&] { kept = std::malloc(10); }).first == 1);
        QVERIFY(seen([&] { kept = std::realloc(kept, 100000); }).first == 1);
        QVERIFY(seen([&] { std::free(kept); }).first == 1);
        QVERIFY(seen([&] { pthread_mutex_lock(&m); }).second == 1);
        pthread_mutex_unlock(&m);
        QVERIFY(seen([&] { rw.lock(); }).second == 1);
        rw.unlock();
        QVERIFY(seen([&] { rw.lock_shared(); }).second == 1);
        rw.unlock_shared();
    }
    void everyBlockWhileEverythingChanges() {
        // Every kind with noise at all of its inputs, a file where it takes one, ports on cables to other devices.
        Program p = test::twoLanes();
        p.blocks.push_back({"hiss", "generator", "", {}, {{"signal", 2}, {"level", -12}}});
        for (const auto& k : blockKinds()) {
            Block b{"free." + k.id, k.id, ""};
            if (k.files > 0)
                b.texts["file"] = k.taps ? "taps.wav" : "speech.wav";
            if (k.end != End::none)
                b.texts["port"] = (k.network               ? "net "
                                   : k.end == End::arrives ? "in "
                                                           : "out ") +
                                  std::to_string(p.blocks.size());
            const int ins = BlockView(b).inputs();
            p.blocks.push_back(b);
            for (int i = 0; i < ins; ++i)
                p.connections.push_back({{"hiss", 0}, {b.id, i}});
        }
        const auto noise = [](std::size_t n) {
            std::vector<float> x(n);
            unsigned seed = 5;
            for (float& v : x)
                v = static_cast<float>(static_cast<int>(seed = seed * 1664525u + 1013904223u) / 4e9);
            return x;
        };
        const auto speech =
            std::make_shared<loom::dsp::AudioClip>(loom::dsp::AudioClip{48000, {noise(3000), noise(3000)}});
        const auto taps = std::make_shared<loom::dsp::AudioClip>(loom::dsp::AudioClip{48000, {noise(700)}});
        const auto cable = std::make_shared<Cable>(), away = std::make_shared<Cable>();
        Resources resources;
        resources.clip = [&](const std::string& file, double) { return file == "taps.wav" ? taps : speech; };
        resources.arriving = [&](const std::string&) { return cable; };
        resources.leaving = [&](const std::string&) { return away; };
        const auto sound = noise(maxFrame);
        Runner r(48000, resources);
        QVERIFY(bool(r.load(p)));
        r.probe(0, PortRef{"mix", 0});
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
            std::vector<const float*> in(r.schedule()->inputs().size(), sound.data());
            std::vector<std::vector<float>> heardAt(r.schedule()->outputs().size(), std::vector<float>(maxFrame));
            std::vector<float*> out;
            for (auto& o : heardAt)
                out.push_back(o.data());
            for (int frame = 0; frame < 30; ++frame) {
                cable->write(sound.data(), maxFrame);
                watching = true;
                r.process({in.data(), out.data()}, frame % 3 ? maxFrame : 17);
                watching = false;
            }
            std::vector<float> heard(8192);
            r.readProbe(0, heard);
        }
        QCOMPARE(allocations, 0);
        QCOMPARE(locks, 0);
    }
};
LOOM_TEST(tst_realtime, TestRealtime)
#include "tst_realtime.moc"
