// Everything the product can find wrong by itself, in the design and on site, each declared once: its code (kept in
// projects that leave a finding as it is), the stage where it is dealt with, how much it matters, and what it is.
// tst_findings provokes and cures every one of them.
#pragma once
#include <string>
#include <vector>

namespace loom::project {

enum class Severity { note, fix };

#define LOOM_FINDINGS(X)                                                                                               \
    /* -- programs -- */                                                                                               \
    X(unknownBlock, "unknown-block", "Weave", fix, "A block of a kind that is not known here")                         \
    X(noArrival, "no-arrival", "Weave", fix, "A destination at which no source arrives")                               \
    X(goesNowhere, "goes-nowhere", "Weave", note, "A source that leads to nothing")                                    \
    X(noReference, "no-reference", "Weave", fix, "An echo canceller without a reference")                              \
    X(silentReference, "silent-reference", "Weave", fix, "A reference that no source reaches")                         \
    X(noFile, "no-file", "Weave", note, "A block that plays files and has none")                                       \
    X(fileMissing, "file-missing", "Weave", fix, "A file that is not in the project")                                  \
    X(fileTooLarge, "file-too-large", "Weave", fix, "A file that does not fit into the processor")                     \
    X(fileUnfit, "file-unfit", "Weave", fix, "A file that cannot be what it is used for")                              \
    X(offNotFlat, "off-not-flat", "Weave", note, "A section or band that is off and has settings")                     \
    X(noPort, "no-port", "Weave", note, "A source or destination without a port")                                      \
    X(portTwice, "port-twice", "Weave", fix, "A port that two use")                                                    \
    X(noSuchPort, "no-such-port", "Weave", fix, "A port that the model does not have")                                 \
    X(badConnection, "bad-thread", "Weave", fix, "A thread that ends nowhere, or two at one port")                     \
    X(loop, "loop", "Weave", fix, "Sound that comes back to where it was")                                             \
    X(lanesApart, "lanes-apart", "Weave", note, "One sound that arrives over ways of different length")                \
    X(overBudget, "over-budget", "Weave", fix, "A program that takes more than its processor has")                     \
    X(knobLost, "knob-lost", "Weave", fix, "A knob that is to move what is not there")                                 \
    /* -- rooms and what stands in them -- */                                                                          \
    X(roomShape, "room-shape", "Survey", fix, "A room whose walls are no room")                                        \
    X(unknownMaterial, "unknown-material", "Survey", note, "A material that is not in the table")                      \
    X(seatOutside, "seat-outside", "Survey", note, "A seat outside its room")                                          \
    X(wallRooms, "wall-rooms", "Survey", fix, "A movable wall that does not divide two rooms")                         \
    X(rackFull, "rack-full", "Survey", fix, "A device outside its rack's units")                                       \
    X(rackOverlap, "rack-overlap", "Survey", fix, "Two devices in one unit")                                           \
    X(sameName, "same-name", "Survey", fix, "A name that two devices have, or none")                                   \
    X(sameAddress, "same-address", "Survey", fix, "An address that two planned devices have")                          \
    X(unknownModel, "unknown-model", "Survey", note, "A model that is not on the shelf")                               \
    X(longName, "long-name", "Survey", note, "A name that no list can show")                                           \
    X(badAddress, "bad-address", "Survey", fix, "An address that is none")                                             \
    X(noAddress, "no-address", "Survey", note, "A networked device without an address")                                \
    X(outsideRoom, "outside-room", "Survey", fix, "A device outside its room")                                         \
    X(aboveCeiling, "above-ceiling", "Survey", fix, "A device above the ceiling")                                      \
    X(poeOver, "poe-over", "Survey", fix, "More power over the network than the switches offer")                       \
    X(socketsOver, "sockets-over", "Survey", fix, "More devices than network sockets")                                 \
    X(ownerUnknown, "owner-unknown", "Survey", fix, "A port that belongs to no room")                                  \
    X(ownerTwoRooms, "owner-two-rooms", "Survey", fix, "A port of rooms that are never one")                           \
    X(uneven, "uneven", "Survey", note, "Direct sound that is uneven over the seats")                                  \
    X(unclear, "unclear", "Survey", note, "Speech that is not clear enough at a seat")                                 \
    X(tooWeak, "too-weak", "Survey", fix, "Loudspeakers that cannot reach the target level")                           \
    X(notPickedUp, "not-picked-up", "Survey", note, "A talker whom no microphone picks up well")                       \
    X(feedback, "feedback", "Survey", fix, "A microphone that would ring")                                             \
    /* -- sound between devices -- */                                                                                  \
    X(overLimit, "over-limit", "Patch", fix, "A device that is asked for more streams or channels than it can")        \
    X(ringFull, "ring-full", "Patch", fix, "More channels than a ring has slots")                                      \
    X(streamName, "stream-name", "Patch", fix, "Two streams of one name on a sound network")                           \
    X(streamAddress, "stream-address", "Patch", fix, "An address of a stream that cannot be used")                     \
    X(streamPorts, "stream-ports", "Patch", fix, "A stream or receiver on ports that are not there, or of two kinds")  \
    X(packetTooLarge, "packet-too-large", "Patch", fix, "More channels than a packet holds")                           \
    X(formatUnknown, "format-unknown", "Patch", fix, "A format that a device does not know")                           \
    X(streamGone, "stream-gone", "Patch", fix, "A receiver of a stream that nobody offers")                            \
    X(unheard, "unheard", "Patch", note, "A stream that nobody hears")                                                 \
    X(ratesApart, "rates-apart", "Patch", fix, "A stream between devices of different rates")                          \
    X(networksApart, "networks-apart", "Patch", fix, "A stream between different sound networks")                      \
    X(noWay, "no-way", "Patch", fix, "A stream to which no cable leads")                                               \
    X(noClock, "no-clock", "Patch", fix, "A sound network that nobody leads")                                          \
    X(soundLoop, "sound-loop", "Patch", fix, "Sound that comes back over other devices")                               \
    X(slotTwice, "slot-twice", "Patch", fix, "An input to which two sounds come")                                      \
    X(widthApart, "width-apart", "Patch", note, "A receiver with another number of channels than its stream")          \
    X(comesLate, "comes-late", "Patch", fix, "A receiver that waits too short for its packets")                        \
    X(wireEnd, "wire-end", "Patch", fix, "A cable to a socket that is not there, or has two")                          \
    X(ringGap, "ring-gap", "Patch", fix, "A ring that is not closed")                                                  \
    X(ringCrossed, "ring-crossed", "Patch", fix, "Ring sockets that are joined wrongly")                               \
    X(wireGrade, "wire-grade", "Patch", fix, "A cable below what it carries")                                          \
    X(wireLong, "wire-long", "Patch", fix, "A cable that is too long")                                                 \
    X(linkBusy, "link-busy", "Patch", fix, "A cable with more than 80 % of what it carries")                           \
    X(switchPower, "switch-power", "Patch", fix, "More power at a switch than it gives")                               \
    X(noPower, "no-power", "Patch", fix, "A device that gets no power over its cable")                                 \
    X(oneFault, "one-fault", "Patch", note, "One cable or switch on which a room depends")                             \
    /* -- amplifiers and loudspeakers -- */                                                                            \
    X(noLoad, "no-load", "Speakers", fix, "An output with sound and nothing on it")                                    \
    X(loadGone, "load-gone", "Speakers", fix, "A loudspeaker that is not there any more")                              \
    X(noTap, "no-tap", "Speakers", fix, "A loudspeaker on a line without a tap")                                       \
    X(mixedVoicings, "mixed-voicings", "Speakers", fix, "Different voicings on one output")                            \
    X(noVoicing, "no-voicing", "Speakers", note, "Loudspeakers that nothing protects")                                 \
    X(lowImpedance, "low-impedance", "Speakers", fix, "A load below what the amplifier drives")                        \
    X(noLine, "no-line", "Speakers", fix, "A line on an amplifier that drives none")                                   \
    X(tapsOver, "taps-over", "Speakers", fix, "Taps that take more than the output gives")                             \
    X(runsNowhere, "runs-nowhere", "Speakers", fix, "A voicing that nothing can run")                                  \
    X(powerUnknown, "power-unknown", "Speakers", note, "A driver of which it is not known what it bears")              \
    X(unprotected, "unprotected", "Speakers", fix, "A driver that gets more than it bears")                            \
    X(tapTooHigh, "tap-too-high", "Speakers", fix, "A tap above what the driver bears")                                \
    X(amplifierOverload, "amplifier-overload", "Speakers", note, "Loads that together take more than there is")        \
    X(hangsNowhere, "hangs-nowhere", "Speakers", note, "A voiced loudspeaker on no amplifier")                         \
    X(wayMissing, "way-missing", "Speakers", fix, "A loudspeaker with a way that hangs nowhere")                       \
    X(voicingApart, "voicing-apart", "Speakers", fix, "Blocks that are not as their voicing has them")                 \
    X(overload, "overload", "Speakers", fix, "An output that is too weak for its room")                                \
    /* -- conversations -- */                                                                                          \
    X(hearsItself, "hears-itself", "Talk", fix, "A far end that is sent its own sound")                                \
    X(overheard, "overheard", "Talk", fix, "A far end that hears a room it does not belong to")                        \
    X(noCanceller, "no-canceller", "Talk", fix, "A microphone that sends a far end its echo")                          \
    X(ownReference, "own-reference", "Talk", fix, "A reference in which its own microphone is")                        \
    X(nothingCuts, "nothing-cuts", "Talk", fix, "A mute that cuts nothing on the way to a far end")                    \
    X(outsideMute, "outside-mute", "Talk", note, "A place that may show another mute than its room")                   \
    X(claimedTwice, "claimed-twice", "Talk", fix, "A microphone that two groups at work have")                         \
    X(groupsApart, "groups-apart", "Talk", note, "Groups of one space in several processors")                          \
    X(otherChannel, "other-channel", "Talk", note, "A computer's second channel that nobody hears")                    \
    X(noAccount, "no-account", "Talk", fix, "A telephone line without an account")                                     \
    X(wallUnknown, "wall-unknown", "Talk", fix, "A program that follows a wall of which its device is not told")       \
    X(proofMissed, "proof-missed", "Talk", note, "Something that the far end does not get as it should")               \
    X(proofOld, "proof-old", "Talk", note, "A proof of a design that was changed since")                               \
    /* -- touch surfaces -- */                                                                                         \
    X(controlLost, "control-lost", "Surfaces", fix, "A control that is driven from what is not there")                 \
    X(controlIdle, "control-idle", "Surfaces", note, "A control that does nothing")                                    \
    X(leadsNowhere, "leads-nowhere", "Surfaces", fix, "A control that opens a page or ply that is not there")          \
    X(conditionWrong, "condition-wrong", "Surfaces", fix, "A condition that cannot be met")                            \
    X(controlSmall, "control-small", "Surfaces", note, "A control that is too small for a finger")                     \
    X(controlOutside, "control-outside", "Surfaces", fix, "A control outside its page")                                \
    X(controlsOverlap, "controls-overlap", "Surfaces", note, "Controls that lie over each other")                      \
    X(pageUnreached, "page-unreached", "Surfaces", note, "A page that nothing opens")                                  \
    X(hardToRead, "hard-to-read", "Surfaces", note, "A text that stands out too little")                               \
    X(surfaceSize, "surface-size", "Surfaces", fix, "A surface that is not as large as its screen")                    \
    X(pictureLost, "picture-lost", "Surfaces", fix, "A picture that is not in the project, or is none")                \
    X(picturesHeavy, "pictures-heavy", "Surfaces", fix, "Pictures that take more than their screen has for them")      \
    X(textCut, "text-cut", "Surfaces", note, "A text that has too little room")                                        \
    X(harmUnasked, "harm-unasked", "Surfaces", note, "A control that may do harm and does not ask first")              \
    /* -- what happens when -- */                                                                                      \
    X(ruleCannot, "rule-cannot", "Rules", fix, "A line of a rule that cannot be")                                      \
    X(neverWakes, "never-wakes", "Rules", note, "A rule that never does anything")                                     \
    X(wakeForEver, "wake-for-ever", "Rules", fix, "Rules that wake each other without a pause")                        \
    X(rulesFight, "rules-fight", "Rules", note, "Rules that set one thing to two values at once")                      \
    X(sceneLost, "scene-lost", "Rules", fix, "A scene that sets nothing, or what is not there")                        \
    X(sceneTooMuch, "scene-too-much", "Rules", fix, "A scene that asks for more gain than its room bears")             \
    X(scriptWrong, "script-wrong", "Rules", fix, "A script that cannot run")                                           \
    X(noZone, "no-zone", "Rules", fix, "A place without a time zone")                                                  \
    X(twoProcessors, "two-processors", "Rules", note, "A rule that needs two processors")                              \
    X(clocksApart, "clocks-apart", "Rules", note, "Clocks of rules that follow different time servers")                \
    X(outsideWrong, "outside-wrong", "Rules", fix, "An outside device that cannot be talked to as it is described")    \
    X(outsideAlone, "outside-alone", "Rules", fix, "An outside device that no processor talks to")                     \
    X(accessWrong, "access-wrong", "Rules", fix, "What is allowed from outside and cannot be reached")                 \
    X(accessFree, "access-free", "Rules", note, "What may do harm, set from outside without a PIN")                    \
    X(testFails, "test-fails", "Rules", fix, "A test of rules that does not hold")                                     \
    /* -- found devices -- */                                                                                          \
    X(addressShared, "address-shared", "Site", fix, "An address that two found devices have")                          \
    X(wrongSubnet, "wrong-subnet", "Site", fix, "A found device that this adapter cannot reach")                       \
    X(firmware, "firmware", "Site", note, "Newer firmware is offered")                                                 \
    X(lost, "lost", "Site", fix, "A paired device that does not answer")                                               \
    X(notFound, "not-found", "Site", fix, "A planned device of which none is left")                                    \
    X(notPlanned, "not-planned", "Site", note, "A found device that is not in the plan")                               \
    X(mutesDisagree, "mutes-disagree", "Site", fix, "Places of one mute that are not the same")                        \
    X(lineDown, "line-down", "Site", fix, "A telephone line that cannot be used")                                      \
    X(computerGone, "computer-gone", "Site", fix, "A computer that went away in a call")

enum class FindingCode {
#define LOOM_FINDING_NAME(name, ...) name,
    LOOM_FINDINGS(LOOM_FINDING_NAME)
#undef LOOM_FINDING_NAME
};

struct FindingKind {
    FindingCode code;
    const char *id, *stage; // "no-arrival", "Weave"
    Severity severity;
    const char* what;
};
const std::vector<FindingKind>& findingKinds(); // in the order of their codes
const FindingKind& kindOf(FindingCode code);

} // namespace loom::project
