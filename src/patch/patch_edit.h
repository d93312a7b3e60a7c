// What people do with streams and leads beyond offering and hearing one: single channels, whole devices, alternatives,
// fields, the same delay. No edit has effect if it is refused.
#pragma once
#include "patch/delays.h"
#include "schema/field.h"

namespace loom::project {

// One channel of a stream (from 0) to one input of a device. A receiver of that stream there takes it along.
Result<Edit> hearChannel(const Project& project, const std::string& key, int channel, const std::string& device,
                         const std::string& slot);
// Outputs as people type them, for streams of this device: "net 1-4, net 7", "ring 1". Error: it has no such output.
Result<std::vector<std::string>> portsSaid(const Device& device, const std::string& text);
// Streams and leads (outputs that go by a lead of their own: "heddle/out 3") to a device, each in turn: the first from
// `slot` on, the rest, or all without one, into the first that are free.
Result<Edit> sendTo(const Project& project, const std::vector<std::string>& keys, const std::string& device,
                    const std::string& slot = "");
Result<Edit> withdrawAll(const Project& project, const std::vector<std::string>& keys);
// All that hear these streams, by key.
std::vector<std::string> receiversOfStreams(const Project& project, const std::vector<std::string>& keys);
// All that a device offers and another does not hear yet, into its first free inputs, in order.
Result<Edit> hearAllOf(const Project& project, const std::string& from, const std::string& to);
// Receivers by key let go of what they hear, and are gone.
Result<Edit> dropReceivers(const Project& project, const std::vector<std::string>& receivers);
std::vector<std::string> receiversOf(const Project& project, const std::string& device);

// Another stream that a receiver can switch to; and which one it hears, from 0.
Result<Edit> addChoice(const Project& project, const std::string& receiver, const std::string& key);
Result<Edit> chooseStream(const Project& project, const std::string& receiver, int chosen);

// Fields of a stream or receiver (by key) as forms show them.
std::vector<Field> streamFields(const Project& project, const std::string& key);
Result<Edit> setStreamField(const Project& project, const std::string& key, const std::string& field,
                            const std::string& value);
std::vector<Field> receiverFields(const Project& project, const std::string& key);
Result<Edit> setReceiverField(const Project& project, const std::string& key, const std::string& field,
                              const std::string& value);

// All that hear a stream get the delay of the slowest of them.
Result<Edit> alignReceivers(const Project& project, const std::string& key);

// A lead of its own, for cables, pair links, USB and telephone: from an output to an input, "device/port". "" takes
// away what comes there.
Result<Edit> lead(const Project& project, const std::string& from, const std::string& to);

// An output to an input however their ports go: as a lead, or as a channel of a stream that the device offers, or that
// is made for it. "" takes away what comes there.
Result<Project> joined(Project project, const std::string& from, const std::string& to);

// What is typed: "> recorder in 3", "> recorder", "> heddle 8 net 5". Each stream in turn.
Result<Edit> sendPhrase(const Project& project, const std::vector<std::string>& keys, const std::string& text);

} // namespace loom::project
