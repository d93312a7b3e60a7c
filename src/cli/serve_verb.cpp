#include "cli/serve_verb.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "engine/block_kind.h"
#include "engine/realtime.h"
#include "file/store.h"
#include "program/render.h"
#include "serve/page_server.h"
#include "site/audio_key.h"
#include <QCoreApplication>
#include <QTimer>
#include <QUrl>
#include <chrono>
#include <cstdio>

namespace loom::cli {
namespace serve_verb { // of this file

using namespace project;

struct Call {
    std::string file, surface, address = "127.0.0.1", pin = "0000";
    int port = serve::pagePort;
    double seconds = 0;
    bool silent = false, tls = false;
};

double secondsNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// Every processor of the project at work, hearing its stand-in sound. What is turned stays here.
class Bench : public SurfaceValues {
  public:
    Bench(const Project& p, bool silent) {
        for (const auto& d : p.devices) {
            if (!d.program)
                continue;
            auto& one = at_[d.id];
            one.program = *d.program;
            if (silent)
                continue;
            one.runner = std::make_unique<engine::Runner>(d.rate, resourcesOf(p, d, true));
            if (one.runner->load(*d.program))
                one.thread = std::make_unique<engine::RealtimeThread>(*one.runner);
            else
                one.runner.reset();
        }
    }
    std::optional<double> now(const Drive& d) override {
        const auto it = at_.find(d.device);
        const auto* b = it == at_.end() ? nullptr : it->second.program.find(d.block);
        if (!b || !engine::findKind(b->kind))
            return {};
        if (d.kind == Drive::Kind::reading)
            return reading(it->second, d, *b);
        const engine::BlockView view(*b);
        const int i = view.table->indexOf(d.param);
        return i < 0 ? std::nullopt : std::optional(view.values[static_cast<std::size_t>(i)]);
    }
    void set(const Drive& d, double value) override {
        const auto it = at_.find(d.device);
        auto* b = it == at_.end() ? nullptr : it->second.program.find(d.block);
        if (!b)
            return;
        b->values[d.param] = value;
        if (it->second.runner)
            (void)bool(it->second.runner->set(d.block, d.param, value));
    }
    void tend() {
        for (auto& [_, one] : at_)
            if (one.runner)
                one.runner->tend();
    }

  private:
    struct Processor {
        engine::Program program{};
        std::unique_ptr<engine::Runner> runner{};
        std::unique_ptr<engine::RealtimeThread> thread{};
    };
    static std::optional<double> reading(const Processor& at, const Drive& d, const engine::Block& b) {
        if (!at.runner)
            return {};
        if (d.readout >= 0) {
            const auto kernel = at.runner->schedule() ? at.runner->schedule()->kernel(d.block) : nullptr;
            return kernel ? std::optional<double>(kernel->readout(d.readout)) : std::nullopt;
        }
        const auto port = levelAt(at.program, b);
        return port ? std::optional<double>(at.runner->meter(*port).peakDb) : std::nullopt;
    }
    std::map<std::string, Processor> at_{};
};

int serve(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    if (p->surfaces.empty())
        return fail({"has no touch surface", c.file, "loomctl new-surface makes one."});
    int argc = 1;
    char name[] = "loomctl";
    char* argv[] = {name, nullptr};
    QCoreApplication app(argc, argv);
    Bench bench(*p, c.silent);
    PageHost host(bench);
    std::map<std::string, Asset> pictures;
    std::vector<PageHost::Served> served;
    for (const auto& s : p->surfaces) {
        if (!c.surface.empty() && s.id != c.surface && s.name != c.surface)
            continue;
        served.push_back(servedOf(*p, s, pictures));
    }
    if (served.empty())
        return fail({"there is no such surface", c.surface, "loomctl surfaces lists them."});
    host.serve(std::move(served));
    host.secret = [] { return site::keyText(site::newAudioKey()); };
    host.admit = [&](const std::string&, const std::string& role, const std::string& pin,
                     const std::string&) -> Result<Done> {
        if (pin != c.pin)
            return Error{"that PIN is wrong", role, ""};
        return Done{};
    };
    serve::PageServer server(host, secondsNow);
    server.picture = [&](const std::string& print) {
        const auto it = pictures.find(print);
        return it == pictures.end() ? std::vector<char>{} : static_cast<const std::vector<char>&>(it->second);
    };
    if (const auto why = server.listen(QHostAddress(QString::fromStdString(c.address)), static_cast<quint16>(c.port));
        !why.isEmpty())
        return fail({why.toStdString(), c.address, "Choose another with --address or --port."});
    if (c.tls) { // a certificate for this run
        const auto own = serve::newCertificate("loomctl", {c.address});
        const auto why = own ? server.listenTls(QHostAddress(QString::fromStdString(c.address)), *own,
                                                c.port ? static_cast<quint16>(c.port + 1) : quint16(0))
                             : QString::fromStdString(own.error().text());
        if (!why.isEmpty())
            return fail({why.toStdString(), c.address, "Choose another with --address or --port."});
        std::printf("certificate %s\n", serve::printOf(*own).c_str());
    }
    for (const auto& one : host.served())
        for (const bool tls : {false, true})
            if (!tls || c.tls)
                std::printf("%s://%s:%d/s/%s\n", tls ? "https" : "http", c.address.c_str(),
                            tls ? server.tlsPort() : server.port(),
                            QUrl::toPercentEncoding(QString::fromStdString(one.surface)).toStdString().c_str());
    std::fflush(stdout);
    QTimer tend;
    QObject::connect(&tend, &QTimer::timeout, [&] { bench.tend(); });
    tend.start(100);
    if (c.seconds > 0)
        QTimer::singleShot(static_cast<int>(c.seconds * 1000), &app, &QCoreApplication::quit);
    return QCoreApplication::exec();
}

} // namespace serve_verb

void addServeVerb(CLI::App& app, std::function<int()>& action) {
    using namespace serve_verb;
    static Call call;
    auto* v =
        addVerb(app, action, call, "serve", "Serves touch surfaces to browsers, with every processor at work here",
                "loomctl serve hall.loom --surface tern-slate", serve);
    v->add_option("FILE", call.file, "Project file or folder")->required();
    v->add_option("--surface", call.surface, "Only this one, by id or name");
    v->add_option("--address", call.address, "Address of this computer; 0.0.0.0: all")->capture_default_str();
    v->add_option("--port", call.port, "Port; 0: a free one")->check(CLI::Range(0, 65535))->capture_default_str();
    v->add_option("--pin", call.pin, "PIN of every role")->capture_default_str();
    v->add_option("--seconds", call.seconds, "Ends after so long; 0: never")->check(CLI::Range(0.0, 1e6));
    v->add_flag("--tls", call.tls, "Over TLS too, at the next port, with a certificate of this run");
    v->add_flag("--silent", call.silent, "Without sound at work: levels are not known");
}

} // namespace loom::cli
