// What comes from the network to the desk, images of boards, and scenarios: every one is read or refused, and what was
// read is whole.
#include "file/project_json.h"
#include "schema/json_text.h"
#include "site/audio_key.h"
#include "site/board_image.h"
#include "site/found.h"
#include "site/mute_link.h"
#include "site/protocol.h"
#include "site/reconcile.h"
#include "site/scenario.h"
#include "stream/srtp.h"
#include <cstdlib>

using namespace loom;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    static const auto identity = site::newKeys(), own = site::newKeys(), other = site::newKeys();
    auto channel = site::Channel::desk(own, other.open, identity.open);
    if (channel.open(text)) // nobody makes a box by chance
        std::abort();
    (void)site::readSubnet(text);
    static auto sealer = *stream::Sealer::hearing({1, 2, 3});
    if (!sealer.open({data, size}).empty())
        std::abort();
    const project::SetUp sound{{"stream x", text}, {"receiver x", text}};
    (void)project::soundOf(sound);
    for (const auto& [id, value] : sound)
        (void)project::setUpWords(id, value);
    static site::MuteLink mute("here"); // what comes by datagrams changes no more than what it is about
    mute.setSpaces({"hall"}, {"hall"}, 0);
    (void)mute.heard(text, 1);
    if (mute.spaces() != std::vector<std::string>{"hall"} || mute.take(100).size() > 1)
        std::abort();
    for (const char* id : {"contact 1", "relay 1"})
        if (const auto use = project::readContact(id, text); use && use->kind != project::ContactUse::Kind::none)
            if (const auto again = project::readContact(id, project::contactText(*use)); !again || !(*again == *use))
                std::abort();
    (void)bool(project::readMuteUse(text));
    if (const auto use = project::readKnob(text))
        if (const auto again = project::readKnob(project::knobText(*use)); !again || !(*again == *use))
            std::abort();
    if (const auto bytes = site::fromIntelHex(text, 32768)) {
        if (bytes->size() > 32768 || *site::fromIntelHex(site::toIntelHex(*bytes), 32768) != *bytes)
            std::abort();
        (void)bool(site::configOfImage(*bytes));
    }
    (void)bool(site::configOfImage({text.begin(), text.end()}));
    const auto j = project::parseJson(text, "fuzz");
    if (!j)
        return 0;
    if (const auto f = schema::fromJson<site::DiscoveredDevice>(*j); f && f->serial.empty())
        std::abort();
    if (const auto v = schema::fromJson<site::Vitals>(*j))
        (void)project::wordOf({true, true, true, 0, true, false, *v});
    (void)bool(site::scenarioFromJson(*j));
    if (const auto c = schema::fromJson<site::Config>(*j)) {
        const auto again = schema::fromJson<site::Config>(schema::toJson(*c));
        if (!again || site::fingerprint(*again) != site::fingerprint(*c))
            std::abort();
        static const site::Config design = [] {
            site::Config d;
            d.program.emplace();
            d.program->blocks = {{"tone", "generator", ""}, {"eq", "eq", ""}};
            d.program->connections = {{{"tone", 0}, {"eq", 0}}};
            d.setUp = {{"name", "x"}};
            return d;
        }();
        site::Choices device;
        auto rows = site::rowsOf(design, *c, nullptr, site::Standing::current, {});
        for (auto& r : rows)
            device[r.key] = site::Take::device;
        rows = site::rowsOf(design, *c, nullptr, site::Standing::current, device);
        (void)site::settled(design, *c, rows);
    }
    return 0;
}
