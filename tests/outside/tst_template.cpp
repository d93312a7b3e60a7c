// Templates: what is said and heard, byte for byte; what is none; descriptions that ship, addresses, OSC.
#ifndef Q_MOC_RUN
#include "outside/osc.h"
#include "outside/outside_address.h"
#include "outside/outside_edit.h"
#include "outside/template.h"
#endif
#include "test.h"
#include <set>

using namespace loom;
using namespace loom::project;

namespace {

std::string hexOf(const std::string& bytes) {
    return QByteArray(bytes.data(), static_cast<qsizetype>(bytes.size())).toHex(' ').toStdString();
}

std::string composed(const char* text, bool hex, const char* value) {
    const auto t = Template::read(text, hex);
    const auto bytes = t ? t->compose(value) : Result<std::string>(t.error());
    return bytes ? (hex ? hexOf(*bytes) : *bytes) : "! " + bytes.error().message;
}

std::string matched(const char* text, bool hex, const std::string& heard) {
    const auto t = Template::read(text, hex);
    if (!t)
        return "! " + t.error().message;
    const auto v = t->match(hex ? QByteArray::fromHex(heard.c_str()).toStdString() : heard);
    return v ? *v : "-";
}

} // namespace

class TestTemplate : public QObject {
    Q_OBJECT
  private slots:
    void whatIsSaid() {
        QCOMPARE(composed("POWER {value}\r", false, "1"), std::string("POWER 1\r"));
        QCOMPARE(composed("VOL{value:03}", false, "7"), std::string("VOL007"));
        QCOMPARE(composed("VOL{value:03}", false, "-7"), std::string("VOL-07"));
        QCOMPARE(composed("L{value:x2}", false, "171"), std::string("LAB"));
        QCOMPARE(composed("L{value:x2}", false, "0xab"), std::string("LAB"));
        QCOMPARE(composed("{{\"on\": {value}}}", false, "true"), std::string("{\"on\": true}"));
        QCOMPARE(composed("02 50 {value:b1} 03", true, "17"), std::string("02 50 11 03"));
        QCOMPARE(composed("0250{value:b2}", true, "258"), std::string("02 50 01 02"));
        // 0xa5 + 0x01 + 0x02 = 0xa8; a5 ^ 01 ^ 02 = a6; 0xff + 0x02 = 0x101
        QCOMPARE(composed("A5 01 {value:b1} {sum}", true, "2"), std::string("a5 01 02 a8"));
        QCOMPARE(composed("a5 01 {value} {xor}", true, "2"), std::string("a5 01 02 a6"));
        QCOMPARE(composed("ff 02 {sum}", true, ""), std::string("ff 02 01"));
        for (const auto& [text, hex, value] :
             std::vector<std::tuple<const char*, bool, const char*>>{{"{value:b1}", true, "256"},
                                                                     {"{value:b1}", true, "-1"},
                                                                     {"{value:b1}", true, "on"},
                                                                     {"{value:x1}", false, "16"},
                                                                     {"{value:03}", false, "on"},
                                                                     {"{any}", false, ""}})
            QVERIFY2(composed(text, hex, value)[0] == '!', text);
        QCOMPARE(composed("{value:b1}", true, "255"), std::string("ff"));
        QCOMPARE(composed("{value:b4}", true, "4294967295"), std::string("ff ff ff ff"));
    }
    void whatIsNone() {
        for (const char* text : {"{", "}", "{value", "{value:}", "{value:b}", "{value:b5}", "{value:x0}", "{value:y2}",
                                 "{valuex}", "{sums}", "{value}{any}", "{any}{value}", "{any}{any}", "{value} {value}"})
            QVERIFY2(!Template::read(text, false), text);
        for (const char* text : {"0", "0g", "02 5", "zz", "{{", "02 }"})
            QVERIFY2(!Template::read(text, true), text);
        QVERIFY(!Template::read(std::string(1001, 'a'), false) && Template::read(std::string(1000, 'a'), false));
        QVERIFY(Template::read("", false) && Template::read("{value:b1}{value:b1}", true).error().message.size() > 0);
        const auto where = Template::read("POWER {valu}", false);
        QVERIFY(!where && where.error().place == "sign 7");
    }
    void whatIsHeard() {
        QCOMPARE(matched("POWER={value}", false, "POWER=1"), std::string("1"));
        QCOMPARE(matched("POWER={value}", false, "POWER="), std::string(""));
        QCOMPARE(matched("POWER={value}", false, "POWERS=1"), std::string("-"));
        QCOMPARE(matched("POWER={value};", false, "POWER=1;x"), std::string("-"));
        QCOMPARE(matched("{any}\"level\": {value}}}{any}", false, "{\"a\": 2, \"level\": 40}, \"b\": 3}"),
                 std::string("40"));
        QCOMPARE(matched("{any}={value:03}", false, "lamp=017"), std::string("017"));
        QCOMPARE(matched("{any}={value:03}", false, "lamp=x"), std::string("-"));
        QCOMPARE(matched("L{value:x2}", false, "Lab"), std::string("171"));
        QCOMPARE(matched("L{value:x2}", false, "Lg"), std::string("-"));
        QCOMPARE(matched("5A 02 {value:b1} {sum}", true, "5a02025e"), std::string("2"));
        QCOMPARE(matched("5A 02 {value:b1} {sum}", true, "5a02025f"), std::string("-")); // a wrong sum
        QCOMPARE(matched("5A 02 {value:b1} {sum}", true, "5a0202"), std::string("-"));
        QCOMPARE(matched("5A 02 {value:b1} {sum}", true, "5a02025e00"), std::string("-"));
        QCOMPARE(matched("{any} {value:b2} {xor}", true,
                         "010203"
                         "04d2"
                         "d6"),
                 std::string("1234")); // 01^02^03^04^d2
        QCOMPARE(matched("{any} 00", true, "0100"), std::string(""));
        QCOMPARE(matched("{any}", false, ""), std::string(""));
        QCOMPARE(codeNumber("0x1F"), std::optional<long long>(31));
        QVERIFY(!codeNumber("0x") && !codeNumber("1.5x") && !codeNumber("") && !codeNumber("0x123456789a"));
    }
    void whatShipsIsGood() {
        QCOMPARE(shippedOutsideKinds().size(), std::size_t(6));
        std::set<OutsideKind::Link> links;
        for (const auto& k : shippedOutsideKinds()) {
            QVERIFY2(errorsOf(k).empty(), k.id.c_str());
            links.insert(k.link);
            const auto again = readOutsideKind(outsideKindText(k));
            QVERIFY(again && *again == k);
        }
        QCOMPARE(links.size(), std::size_t(6)); // each way of speaking once
    }
    void whatIsWrongWithADescription() {
        OutsideKind k = shippedOutsideKinds()[0];
        for (const auto& one : shippedOutsideKinds())
            if (one.id == "projector-bytes")
                k = one;
        const auto wrong = [&](auto change) {
            auto other = k;
            change(other);
            return errorsOf(other).size();
        };
        QCOMPARE(wrong([](OutsideKind&) {}), std::size_t(0));
        QCOMPARE(wrong([](OutsideKind& o) { o.states[0].set = "A5 0"; }), std::size_t(1));
        QCOMPARE(wrong([](OutsideKind& o) { o.states[0].set = "A5 01"; }), std::size_t(1));      // nothing to set
        QCOMPARE(wrong([](OutsideKind& o) { o.states[0].ask = "A5 {value}"; }), std::size_t(1)); // and too much
        QCOMPARE(wrong([](OutsideKind& o) { o.states[0].answer = ""; }), std::size_t(1));        // asked, never heard
        QCOMPARE(wrong([](OutsideKind& o) { o.states[0].codes[1] = "300"; }), std::size_t(1));   // fits no byte
        QCOMPARE(wrong([](OutsideKind& o) { o.commands[0].send = "A5 {any}"; }), std::size_t(1));
        QVERIFY(!readOutsideKind("{") && !readOutsideKind("{\"id\": \"x\"}") &&
                !readOutsideKind(std::string(2u << 20, ' ')));
        auto text = outsideKindText(k);
        QVERIFY(readOutsideKind(text));
        text.replace(text.find("\"off\""), 5, "\"\"");
        QVERIFY(!readOutsideKind(text));
    }
    void addresses() {
        OutsideKind k;
        k.port = 4660;
        const auto plain = readOutsideAddress(k, "192.0.2.40");
        QVERIFY(plain && plain->host == "192.0.2.40" && plain->port == 4660);
        const auto own = readOutsideAddress(k, "wall-display.example:23");
        QVERIFY(own && own->host == "wall-display.example" && own->port == 23);
        for (const char* text : {"", "192.0.2.40:", "192.0.2.40:0", "192.0.2.40:65536", "a b", ":80", "http://x/y"})
            QVERIFY2(!readOutsideAddress(k, text), text);
        k.port = 0;
        QVERIFY(!readOutsideAddress(k, "192.0.2.40"));
        k.link = OutsideKind::Link::serial;
        QVERIFY(readOutsideAddress(k, "/dev/ttyS0")->path == "/dev/ttyS0");
        QVERIFY(!readOutsideAddress(k, "/etc/passwd") && !readOutsideAddress(k, "/dev/../etc/passwd"));
        k.link = OutsideKind::Link::wake;
        const auto mac = readOutsideAddress(k, "00:1A:2b:33:44:ff");
        QVERIFY(mac && mac->mac == (std::array<unsigned char, 6>{0, 0x1a, 0x2b, 0x33, 0x44, 0xff}));
        const auto packet = wakePacket(mac->mac);
        QCOMPARE(packet.size(), std::size_t(102));
        QCOMPARE(hexOf(packet.substr(0, 12)), std::string("ff ff ff ff ff ff 00 1a 2b 33 44 ff"));
        QCOMPARE(packet.substr(96), packet.substr(6, 6));
        for (const char* text : {"00:11:22:33:44", "00:11:22:33:44:5g", "001122334455", "00:11:22:33:44:55:66"})
            QVERIFY2(!readOutsideAddress(k, text), text);
    }
    // The bytes are those of the specification's own example, and as its rules pad them.
    void osc() {
        const auto bytes = oscBytes({"/oscillator/4/frequency", {440.0}});
        QVERIFY(bytes);
        QCOMPARE(
            hexOf(*bytes),
            std::string(
                "2f 6f 73 63 69 6c 6c 61 74 6f 72 2f 34 2f 66 72 65 71 75 65 6e 63 79 00 2c 66 00 00 43 dc 00 00"));
        const auto foo = oscBytes({"/foo", {1000, -1, std::string("hello"), 1.234, 5.678}});
        QVERIFY(foo);
        QCOMPARE(hexOf(*foo),
                 std::string(
                     "2f 66 6f 6f 00 00 00 00 2c 69 69 73 66 66 00 00 00 00 03 e8 ff ff ff ff 68 65 6c 6c 6f 00 00 00 "
                     "3f 9d f3 b6 40 b5 b2 2d"));
        const auto again = readOsc(*foo);
        QVERIFY(again && again->size() == 1 && oscText((*again)[0]) == "/foo i:1000 i:-1 s:hello f:1.234 f:5.678");
        const auto text = readOscText("/foo i:1000 i:-1 s:hello f:1.234 f:5.678");
        QVERIFY(text && *oscBytes(*text) == *foo);
        // Two in a bundle: "#bundle", a time, each with its length before it.
        std::string bundle("#bundle\0\0\0\0\0\0\0\0\1", 16);
        for (const auto* one : {&*bytes, &*foo})
            bundle += std::string("\0\0\0", 3) + static_cast<char>(one->size()) + *one;
        const auto both = readOsc(bundle);
        QVERIFY(both && both->size() == 2 && (*both)[0].path == "/oscillator/4/frequency" && (*both)[1].path == "/foo");
        for (std::size_t n = 0; n < bundle.size(); ++n) // cut anywhere it is none, or less
            if (const auto part = readOsc(bundle.substr(0, n)))
                QVERIFY(part->size() < 2);
        for (const std::string& no :
             {std::string(), std::string("/fo"), std::string("foo\0,\0\0\0", 8), std::string(9000, '/'),
              std::string("/a b\0\0\0\0,\0\0\0", 12), std::string("/foo\0\0\0\0,b\0\0\0\0\0\0", 16)})
            QVERIFY2(!readOsc(no), hexOf(no).c_str());
        for (const char* no : {"", "foo", "/foo 1", "/foo i:x", "/foo s:\"x", "/foo i:3000000000", "/f*o"})
            QVERIFY2(!readOscText(no), no);
        QCOMPARE(oscText({"/say", {std::string("two words")}}), std::string("/say s:\"two words\""));
        QCOMPARE(*readOscText("/say s:\"two words\" i:1"), (OscMessage{"/say", {std::string("two words"), 1}}));
    }
};

LOOM_TEST(tst_template, TestTemplate)
#include "tst_template.moc"
