// How long Patch takes: 2,000 streams on 300 devices, and ten times that: worked out, checked, painted, edited; and
// what 32 streams of eight channels take of a processor on the rig.
#include "app/patch/hear_view.h"
#include "app/patch/patch_page.h"
#include "app/shell/command.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "client/announcements.h"
#include "client/socket_network.h"
#include "file/store.h"
#include "findings/patch_findings.h"
#include "models.h"
#include "patch/ways.h"
#include "rig/stream_bench.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QPainter>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>

using namespace loom;
using namespace loom::project;

namespace {

template <class Work> double median(int times, const Work& work) {
    std::vector<double> ms;
    for (int i = 0; i < times; ++i) {
        QElapsedTimer clock;
        clock.start();
        work(i);
        ms.push_back(static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    std::sort(ms.begin(), ms.end());
    return ms[ms.size() / 2];
}

// Blocks of 22 processors on a switch; each offers seven streams, and hears those of the one before it. Switches hang
// in a tree. 14 of them make 308 devices with 2,156 streams.
Project site(int switches) {
    Project p;
    const auto device = [&](const std::string& id, const char* model) {
        Device d;
        d.id = d.name = id;
        d.model = model;
        d.models = test::models();
        return d;
    };
    for (int s = 0; s < switches; ++s) {
        const std::string at = "switch-" + std::to_string(s);
        p.devices.push_back(device(at, "sley-24"));
        const auto wire = [&](const std::string& from, const std::string& to) {
            Wire w;
            w.id = "w" + std::to_string(p.wires.size() + 1);
            w.from = from, w.to = to, w.metres = 10;
            p.wires.push_back(w);
        };
        if (s > 0) // to the one above it, at its socket 23 or 24
            wire(at + "/lan 22", "switch-" + std::to_string((s - 1) / 2) + "/lan " + std::to_string(23 + (s - 1) % 2));
        for (int n = 0; n < 21; ++n) {
            const std::string id = "d-" + std::to_string(s) + "-" + std::to_string(n);
            auto d = device(id, "heddle-16");
            for (int k = 0; k < 7; ++k) {
                Stream one;
                one.id = "s" + std::to_string(k);
                one.name = id + " " + one.id;
                one.ports = {"net " + std::to_string(2 * k + 1), "net " + std::to_string(2 * k + 2)};
                d.streams.push_back(one);
                const std::string before =
                    "d-" + std::to_string(n ? s : (s ? s - 1 : switches - 1)) + "-" + std::to_string(n ? n - 1 : 20);
                d.receivers.push_back({one.id, one.ports, {before + "/" + one.id}});
            }
            p.devices.push_back(d);
            wire(id + "/lan 1", at + "/lan " + std::to_string(n + 1));
        }
    }
    return p;
}

void worked(int switches) {
    const auto p = site(switches);
    const auto patched = patchedOf(p);
    std::printf("%d devices, %d streams:\n", static_cast<int>(p.devices.size()),
                static_cast<int>(patched.offers.size()));
    std::printf("  streams and addresses  %8.1f ms\n", median(5, [&](int) { (void)patchedOf(p); }));
    std::printf("  ways and loads         %8.1f ms\n", median(5, [&](int) { (void)wiredOf(p, patched); }));
    const auto wired = wiredOf(p, patched);
    std::printf("  picture                %8.1f ms\n", median(5, [&](int) { (void)boardOf(p, patched, wired); }));
    std::printf("  from port to port      %8.1f ms\n", median(5, [&](int) { (void)SoundWays(p, patched, wired); }));
    std::size_t found = 0;
    std::printf("  check                  %8.1f ms", median(5, [&](int) { found = checkPatch(p).size(); }));
    std::printf("  (%d findings)\n", static_cast<int>(found));
}

void painted() {
    QTemporaryDir folder;
    const auto file = folder.filePath("patch.loom");
    if (auto done = saveProject(site(14), file.toStdString()); !done)
        return;
    app::Session session;
    if (!session.open(file))
        return;
    QWidget window;
    app::Commands commands(&window);
    app::PatchPage page(session, commands);
    page.resize(1200, 520);
    page.show();
    QImage image(page.hears()->viewport()->size(), QImage::Format_ARGB32_Premultiplied);
    const auto paint = [&] {
        QPainter p(&image);
        page.hears()->viewport()->render(&p);
    };
    paint();
    std::printf("painted, nothing chosen      %6.1f ms\n", median(9, [&](int) { paint(); }));
    page.state().chooseRow("d-3-4/s2");
    std::printf("painted, a stream chosen     %6.1f ms\n", median(9, [&](int) { paint(); }));
    double most = 0;
    const double edit = median(9, [&](int n) {
        QElapsedTimer clock;
        clock.start();
        (void)page.state().run(setStreamField(session.project(), "d-3-4/s2", "level", n % 2 ? "-3" : "-4"));
        paint();
        most = std::max(most, static_cast<double>(clock.nsecsElapsed()) / 1e6);
    });
    std::printf("an edit to its picture       %6.1f ms, the slowest %.1f ms\n", edit, most);
    session.discard();
}

// 32 streams of eight channels from four devices to four others, stepped as fast as it goes.
void carried() {
    Project p;
    for (int n = 0; n < 8; ++n) {
        Device d;
        d.id = d.name = std::string(1, static_cast<char>('a' + n));
        d.model = "heddle-16";
        d.models = test::models();
        for (int k = 0; k < 8; ++k) {
            std::vector<std::string> ports;
            for (int c = 1; c <= 8; ++c)
                ports.push_back("net " + std::to_string((k % 4) * 8 + c));
            if (n < 4) {
                Stream one;
                one.id = one.name = d.id + std::to_string(k);
                one.ports = ports;
                d.streams.push_back(one);
            } else {
                const std::string from(1, static_cast<char>('a' + n - 4));
                d.receivers.push_back({from + std::to_string(k), ports, {from + "/" + from + std::to_string(k)}});
            }
        }
        p.devices.push_back(d);
    }
    test::StreamBench bench(p, 11);
    auto& net = bench.net;
    std::vector<float> block(rig::soundBlock, 0.25f);
    const int steps = 300;
    double ns = 0;
    for (int i = 0; i < steps; ++i) {
        for (auto& [end, c] : bench.out)
            c->write(block.data(), rig::soundBlock);
        QElapsedTimer clock;
        clock.start();
        net.step();
        ns += static_cast<double>(clock.nsecsElapsed());
    }
    std::uint64_t lost = 0, late = 0, taken = 0;
    for (const auto& s : net.states()) {
        lost += s.counts.lost;
        late += s.counts.late;
        taken += s.counts.taken;
    }
    const double seconds = steps * rig::soundBlock / 48000.0;
    std::printf("32 streams of 8 channels, 1 ms: %.2f %% of a processor for each; %llu packets, %llu lost, %llu late\n",
                100 * ns / 1e9 / seconds / 32, static_cast<unsigned long long>(taken),
                static_cast<unsigned long long>(lost), static_cast<unsigned long long>(late));
}

// 300 devices announce 600 streams; 32 receivers hear one each. What carrying and announcing take, and who is told.
void announced() {
    Project p;
    for (int n = 0; n < 300; ++n) {
        Device d;
        d.id = d.name = "d" + std::to_string(n);
        d.model = "heddle-8";
        d.models = test::models();
        for (int k = 0; k < 2; ++k) {
            Stream one;
            one.id = one.name = d.id + (k ? "b" : "a");
            one.ports = {k ? "net 2" : "net 1"};
            d.streams.push_back(one);
        }
        if (n >= 268)
            d.receivers.push_back(
                {"r", {"net 5"}, {"d" + std::to_string(n - 268) + "/d" + std::to_string(n - 268) + "a"}});
        p.devices.push_back(d);
    }
    client::SocketNetwork network(QCoreApplication::instance());
    client::Announcements ears(network);
    ears.listen(true);
    QCoreApplication::processEvents();
    QThread::msleep(100);
    QElapsedTimer clock;
    clock.start();
    test::StreamBench bench(p, 12);
    auto& net = bench.net;
    const double laid = static_cast<double>(clock.nsecsElapsed()) / 1e6;
    std::vector<float> block(rig::soundBlock, 0.25f);
    const int steps = 300;
    double ns = 0, first = 0;
    for (int i = 0; i < steps; ++i) {
        for (int n = 0; n < 32; ++n)
            bench.play("d" + std::to_string(n), "net 1", block);
        clock.restart();
        net.step();
        (i == 0 ? first : ns) += static_cast<double>(clock.nsecsElapsed());
        QCoreApplication::processEvents();
    }
    for (int i = 0; i < 100 && ears.known().all().size() < 600; ++i) {
        QThread::msleep(10);
        QCoreApplication::processEvents();
    }
    std::uint64_t lost = 0, late = 0;
    for (const auto& s : net.states()) {
        lost += s.counts.lost;
        late += s.counts.late;
    }
    std::printf("300 devices, 600 streams announced, 32 sounding: laid %.0f ms, first block %.1f ms, then %.1f %% of a "
                "processor; %d streams known by others, %llu packets lost, %llu late\n",
                laid, first / 1e6, 100 * ns / 1e9 / ((steps - 1) * rig::soundBlock / 48000.0),
                static_cast<int>(ears.known().all().size()), static_cast<unsigned long long>(lost),
                static_cast<unsigned long long>(late));
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    app::Theme::loadFonts();
    for (const int switches : {14, 45, 140})
        worked(switches);
    painted();
    carried();
    announced();
}
