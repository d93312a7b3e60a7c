// How long talk takes where it is large: a first pass of many rooms, and the window's rows for many microphones.
// Usage: bench_talk [ROOMS]
#include "app/talk/talk_view.h"
#include "file/store.h"
#include "models.h"
#include "rooms/room_copy.h"
#include "rooms/room_edit.h"
#include "talk/first_pass.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QTemporaryDir>
#include <cstdio>
#include <cstdlib>

using namespace loom;

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    const int rooms = argc > 1 ? std::atoi(argv[1]) : 200;
    auto p = *test::load(project::dataFolder() + "/demo/marram-point");
    // The hall as it was delivered: its program empty, its room copied.
    p.device("heddle")->program = engine::Program{};
    for (int i = 1; i < rooms; ++i) {
        const auto copy = project::copyRoom(p, "council", p, "Hall " + std::to_string(i + 1));
        if (!copy) {
            std::fprintf(stderr, "%s\n", copy.error().text().c_str());
            return 1;
        }
        p = project::withCopy(std::move(p), *copy);
    }
    std::printf("%zu rooms, %zu devices\n", p.buildings[0].rooms.size(), p.devices.size());
    QElapsedTimer clock;
    clock.start();
    const auto all = project::firstPassOfAll(p);
    std::printf("first pass of all: %.2f s, %zu proposals in %zu rooms, %zu not\n",
                static_cast<double>(clock.elapsed()) / 1000, all ? all->proposals : 0, all ? all->spaces : 0,
                all ? all->cannot.size() : 0);
    // Rows of 64 microphones, each with a minute of openings.
    auto many = *test::load(project::dataFolder() + "/demo/marram-point");
    std::vector<std::array<double, 2>> spots;
    for (int i = 0; i < 54; ++i)
        spots.push_back({1.0 + i % 9, 6.0 + i / 9 * 0.5});
    project::Device more;
    for (int k = 0; k < 4; ++k) {
        more = *std::as_const(many).device("heddle");
        more.id = more.name = "more-" + std::to_string(k);
        more.program = engine::Program{};
        more.feeds.clear();
        many.devices.push_back(more);
    }
    int n = 0;
    for (auto& d : project::newDevices(many, "council", *test::models().find("reed-g40"), spots)) {
        many.devices.push_back(d);
        many.device("more-" + std::to_string(n / 16))->feeds["in " + std::to_string(n % 16 + 1)] = d.id + "/out 1";
        ++n;
    }
    QTemporaryDir folder;
    const auto file = folder.filePath("many.loom");
    if (auto saved = project::saveProject(many, file.toStdString()); !saved) {
        std::fprintf(stderr, "%s\n", saved.error().text().c_str());
        return 1;
    }
    app::Session session;
    app::TalkState state(session);
    app::TalkView view(state);
    if (!session.open(file))
        return 1;
    state.choose("council");
    project::TalkProof proof;
    proof.space = "council";
    proof.sent.assign(48000 * 60, 0.01f);
    for (const auto& m : state.talk().microphones) {
        proof.lanes.push_back({m.name, std::vector<float>(45000, -24.0f)});
        for (std::size_t i = 0; i < 45000; i += 500)
            std::fill_n(proof.lanes.back().db.begin() + static_cast<std::ptrdiff_t>(i), 200, 0.0f);
    }
    state.show(std::move(proof));
    view.resize(1200, 64 * 30);
    QImage image(view.size(), QImage::Format_ARGB32_Premultiplied);
    double most = 0;
    for (int i = 0; i < 20; ++i) {
        clock.restart();
        view.render(&image, {}, QRegion(0, 0, 1200, 520)); // as much as is seen of it at once
        if (i > 0)                                         // fonts are read once
            most = std::max(most, static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    std::printf("%zu microphones: %.1f ms at most\n", state.talk().microphones.size(), most);
}
