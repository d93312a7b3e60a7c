// What carries the client's bytes: real sockets, or what a test makes of them.
#pragma once
#include "client/scheduler.h"
#include "site/found.h"

namespace loom::client {

// Bytes to and from one device. Lives and calls back in the turns of Network::there().
class Line {
  public:
    virtual ~Line() = default;
    std::function<void()> opened, closed; // closed: by the other end, or it never came about
    std::function<void(const std::string& bytes, bool box)> received;
    virtual void open(const std::string& address, std::uint16_t port) = 0;
    virtual void send(const std::string& bytes, bool box) = 0; // box: a binary message
    virtual void close() = 0;                                  // closed() is not called
    virtual void allow(std::size_t bytes) = 0;                 // messages that come in may be that long
};

// Asks who is there; there() again.
class Finder {
  public:
    virtual ~Finder() = default;
    std::function<void(std::vector<site::DiscoveredDevice> found)> heard; // `asked`: where the answer came from
    virtual void ask(const std::vector<std::string>& addresses, std::uint16_t port) = 0;
};

// Hears what is sent to a group; there() again.
class GroupListener {
  public:
    virtual ~GroupListener() = default;
    std::function<void(std::vector<std::vector<std::uint8_t>> packets)> heard;
    // loopback: on this machine alone; else on every adapter that hears groups.
    virtual void join(const std::string& group, std::uint16_t port, bool loopback) = 0;
};

class Network {
  public:
    virtual ~Network() = default;
    virtual Scheduler& here() = 0;                   // of views and of the project
    virtual Scheduler& there() = 0;                  // of lines: what comes in is read and decrypted in its turns
    virtual std::unique_ptr<Line> newLine() = 0;     // to be called, used and destroyed in there()'s turns
    virtual std::unique_ptr<Finder> newFinder() = 0; // likewise
    virtual std::unique_ptr<GroupListener> newListener() = 0;
    virtual void work(std::function<void()> job) = 0; // on yet another thread, where it may take long
};

} // namespace loom::client
