// Many simulated devices on one network: who looks for devices hears them, each talks for itself.
#pragma once
#include "rig/server.h"
#include "rig/stand_ins.h"
#ifndef Q_MOC_RUN
#include "site/scenario.h"
#endif
#include <QTimer>
#include <vector>

class QUdpSocket;

namespace loom::rig {

// Finding is UDP, JSON, port 4710. Who looks sends {"loom": "who"} to an address or to all; a device there answers with
// what `describe` tells. Unless told otherwise a rig stays on this computer: it listens on 127.0.0.0/8 alone.
class Rig : public QObject {
    Q_OBJECT
  public:
    static constexpr std::size_t most = 300;
    using Reach = Server::Reach;
    // models: what it can put up.
    explicit Rig(const project::ModelSource& models, quint16 port = rigPort, Reach reach = Reach::thisComputer,
                 QObject* parent = nullptr);
    ~Rig() override;
    // An empty text, or what stands in the way of finding.
    QString open();
    // Puts a device on the network. Error: more than 300, its serial is there already, no address, or no place to
    // keep its identity.
    Result<Done> add(DeviceSetup setup);
    void remove(const std::string& serial);
    Server* server(const std::string& serial);
    const std::vector<std::unique_ptr<Server>>& servers() const { return servers_; }
    // A fault of one device, or of all with the serial "*"; "cut" is of the wiring, whatever the serial.
    Result<Done> setFault(const std::string& serial, const std::string& name, const nlohmann::json& value);

    // Address of the adapter that streams leave by, before play(); "": they stay on this computer.
    void setSoundAdapter(const std::string& address) { soundAdapter_ = address; }

    // ---- scenarios ----
    // Puts up the devices of a scenario; timed steps run from now on. `project`: whose programs they are prepared
    // with; `sound`: whose stand-in sound they hear.
    Result<Done> play(const site::Scenario& scenario, const project::Project* project, const project::Project* sound,
                      const std::string& folder);
    // The same from a file, with the projects it names.
    Result<Done> playFile(const std::string& path, const std::string& folder);
    Result<Done> step(const std::string& name);                    // all steps of that name, now
    const std::vector<std::string>& said() const { return said_; } // what steps could not do

    // Outside devices of the project that stand in on this computer, by id; null: there is none.
    StandInDevice* standIn(const std::string& id) const;
    const Air* air() const { return air_.get(); } // null: no sound goes between devices

  private:
    void heard(QUdpSocket* at);
    void answer(Server& server, const QHostAddress& to, quint16 port);
    void act(const site::Step& step);
    void beat();                                                 // what devices have to tell each other about mutes
    void hand(const std::string& from, const std::string& text); // to all others
    void handValues(const std::string& text);                    // of touch surfaces, likewise
    void tellValues(Server& server);                             // what it has to tell now
    Result<Done> moveWalls(const nlohmann::json& walls);         // {"fold": "open"}
    void putStandIns(const project::Project& project);
    Result<Done> ailOutside(const nlohmann::json& how); // {"display": "silent"}
    std::map<std::string, std::unique_ptr<StandInDevice>> standIns_;
    std::map<std::string, std::string> serials_; // pseudo-terminals by the lines they stand for
    QTimer beat_;
    project::ModelSource models_;
    quint16 port_;
    Reach reach_;
    std::string soundAdapter_{};
    QUdpSocket *finder_, *mouth_; // hears what goes to all; answers for devices whose own address cannot
    std::unique_ptr<Air> air_;    // outlives the devices that hear it
    std::vector<std::unique_ptr<Server>> servers_;
    site::Scenario scenario_{};
    std::vector<std::string> said_;
};

} // namespace loom::rig
