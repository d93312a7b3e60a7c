// What Patch looks at: streams, leads and cables as they are now, what is chosen of them, and what is cut for a try.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "patch/board.h"
#include "patch/patch_edit.h"
#include "patch/ways.h"
#include "patch/wire_edit.h"
#endif

namespace loom::app {

class PatchState : public QObject {
    Q_OBJECT
  public:
    explicit PatchState(Session& session);
    Session& session() { return session_; }

    // -- as the project is now; worked out when it is asked for --
    const project::Project& project() const { return session_.project(); }
    const project::Patched& patched();
    const project::Wired& wired();    // nothing cut
    const project::Wired& cutWired(); // as cut
    const project::SoundWays& ways(); // as cut
    const project::Board& board();    // as filtered
    const std::vector<project::TransportUse>& uses();
    const std::vector<project::CutEffect>& effects(); // of what is cut
    const project::NetworkState& network();

    // -- what is looked at --
    const project::BoardFilter& filter() const { return filter_; }
    void showTransport(std::optional<project::Transport> transport, const std::string& ring = {});
    void showRoom(const std::string& room); // "": all

    // -- what is chosen --
    const std::vector<std::string>& rows() const { return rows_; } // keys of streams and leads, the last leads
    bool isChosen(const std::string& row) const;
    const std::string& thread() const { return thread_; } // "device/receiver" or, of a lead, "device/in 1"; or ""
    const std::string& taker() const { return taker_; }   // a device that takes
    const std::string& wire() const { return wire_; }     // a cable
    const project::Offer* offer();                        // of the row chosen last, if it is a stream
    void chooseRow(const std::string& key, bool more = false);
    void chooseThread(const project::BoardThread& thread, const std::string& slot = {});
    struct Port {
        std::string device, port;
        bool input = true; // else an output
    };
    std::optional<Port> port();                       // of what is chosen: an input, or the first output of a stream
    bool choosePort(const Port& port);                // what comes or leaves there; false: nothing that is shown
    const std::string& slot() const { return slot_; } // the input of it that is looked at; "": its first
    void chooseTaker(const std::string& device);
    void chooseWire(const std::string& id);

    // -- cuts, for a try: nothing of the project --
    const project::Cut& cut() const { return cut_; }
    void toggleCut(const std::string& wire, const std::string& device = {});
    void mend();

    // -- changes; false: refused, and told --
    bool run(Result<project::Edit> edit);
    bool drop();                                                        // the chosen thread
    bool dropAll();                                                     // all that hear the chosen streams
    bool withdraw();                                                    // the chosen streams
    bool send(const std::string& device, const std::string& slot = {}); // the chosen rows
    bool sendAll(const std::string& from, const std::string& to);       // all of a device
    bool sendChannel(const std::string& row, int channel, const std::string& device, const std::string& slot);
    bool phrase(const QString& text); // "> recorder in 3"
    bool align();                     // all that hear the chosen stream

  signals:
    void changed(); // the project, the filter or a cut
    void chosen();

  private:
    void forget();
    Session& session_;
    std::shared_ptr<const project::Project> seen_; // what the rest points into
    std::optional<project::Patched> patched_;
    std::optional<project::Wired> wired_, cutWired_;
    std::optional<project::SoundWays> ways_;
    std::optional<project::Board> board_;
    std::optional<std::vector<project::TransportUse>> uses_;
    std::optional<std::vector<project::CutEffect>> effects_;
    std::optional<project::NetworkState> network_;
    project::BoardFilter filter_;
    std::vector<std::string> rows_;
    std::string thread_, taker_, wire_, slot_;
    project::Cut cut_;
};

} // namespace loom::app
