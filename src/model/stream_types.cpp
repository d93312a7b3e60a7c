// The declarations of streams, what hears them (model/streams.h), and cables (model/wires.h).
#include "model/describe.h"

namespace loom::schema {

using namespace project;

namespace {

Type<Stream> streamType() {
    Type<Stream> t("stream", "Channels that a device offers on the packet network");
    t.add("id", &Stream::id).id();
    t.add("name", &Stream::name).label("Name").letters(60).always().help("what others choose it by");
    t.add("ports", &Stream::ports).items(0, 80).always().help("outputs of the device, one a channel");
    t.add("level", &Stream::levelDb).setting().range(-100, 20).label("Level", "dB", 1);
    t.add("muted", &Stream::muted).setting().label("Muted");
    t.add("inverted", &Stream::inverted).setting().label("Polarity inverted");
    t.add("samples", &Stream::samples).setting().choices({"L16", "L24"}).named({"16 bits", "24 bits"}).label("Samples");
    t.add("packetMs", &Stream::packetMs).setting().range(0.1, 4.1).label("Packet time", "ms", 3).help("0.125 to 4 ms");
    t.add("unicast", &Stream::unicast).setting().label("To one receiver only");
    t.add("address", &Stream::address)
        .label("Address")
        .letters(40)
        .help("of its group; without it one of the range, given by itself");
    t.add("port", &Stream::port).range(1024, 65535).label("UDP port", "", 0);
    t.add("payload", &Stream::payload).range(0, 127).help("RTP's payload type; 0: the usual one, 98");
    t.extra(&Stream::extra);
    return t;
}

Type<Receiver> receiverType() {
    Type<Receiver> t("receiver", "Inputs of a device that hear one stream, or one of several");
    t.add("id", &Receiver::id).id();
    t.add("inputs", &Receiver::inputs)
        .items(0, 80)
        .always()
        .help("inputs of the device, in the order of the channels; \"\": that channel is not taken");
    t.add("streams", &Receiver::streams).items(0, 64).always().help("`\"device/stream\"`, by ids; one is heard");
    t.add("chosen", &Receiver::chosen).setting().range(0, 63).help("which of them, from 0");
    t.add("delayMs", &Receiver::delayMs)
        .setting()
        .range(0, 1000)
        .label("Delay", "ms", 3)
        .help("from leaving to coming out, ms; without it as short as both ends allow");
    t.add("level", &Receiver::levelDb).setting().range(-100, 20).label("Level", "dB", 1);
    t.add("muted", &Receiver::muted).setting().label("Muted");
    t.add("inverted", &Receiver::inverted).setting().label("Polarity inverted");
    t.extra(&Receiver::extra);
    return t;
}

Type<Wire> wireType() {
    Type<Wire> t("wire", "A cable from a socket to a socket");
    t.add("id", &Wire::id).id();
    t.add("number", &Wire::number).label("Number").letters(40).help("as it stands on its ends");
    t.add("from", &Wire::from).needed().help("`\"device/socket\"`: `lan 3`, `ring a`, `out 1`");
    t.add("to", &Wire::to).needed();
    t.add("metres", &Wire::metres).label("Length", "m", 1).range(0, 100000).help("0: not known");
    t.add("grade", &Wire::grade)
        .label("Grade")
        .choices({"cat5e", "cat6", "cat6a", "fibre", "pair110", "balanced"})
        .named({"Cat 5e", "Cat 6", "Cat 6A", "Fibre", "110 \u03a9 pair", "Balanced"});
    t.extra(&Wire::extra);
    return t;
}

} // namespace

LOOM_TYPE(Wire, wireType)
LOOM_TYPE(Stream, streamType)
LOOM_TYPE(Receiver, receiverType)

} // namespace loom::schema
