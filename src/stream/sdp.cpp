#include "stream/sdp.h"
#include "dsp/number.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <vector>

namespace loom::stream {
namespace {

std::optional<std::uint64_t> whole(std::string_view text, std::uint64_t most) {
    std::uint64_t v = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc() || end != text.data() + text.size() || v > most)
        return {};
    return v;
}

std::optional<double> decimal(std::string_view text) {
    if (text.empty() || text.size() > 20 || text.find_first_not_of("0123456789.") != std::string_view::npos)
        return {};
    const auto n = leadingNumber(std::string(text));
    return n.length == text.size() ? std::optional(n.value) : std::nullopt;
}

std::vector<std::string_view> wordsOf(std::string_view line, char at = ' ') {
    std::vector<std::string_view> all;
    while (!line.empty()) {
        const auto end = std::min(line.find(at), line.size());
        if (end > 0)
            all.push_back(line.substr(0, end));
        line.remove_prefix(std::min(end + 1, line.size()));
    }
    return all;
}

// What people see: no signs that would break a line or a picture.
std::string shown(std::string_view text) {
    std::string all;
    for (const char c : text.substr(0, 200))
        all += static_cast<unsigned char>(c) < ' ' ? ' ' : c;
    return all;
}

// Lines of one session, then of one medium after the other.
class Parser {
  public:
    explicit Parser(const std::string& text) : text_(text) {}
    Result<Description> read() {
        if (text_.size() > mostSdpBytes)
            return Error{"is larger than 64 KiB", "the description", "A stream needs some 300 bytes."};
        for (std::string_view rest = text_; !rest.empty();) {
            const auto end = std::min(rest.find('\n'), rest.size());
            auto line = rest.substr(0, end);
            rest.remove_prefix(std::min(end + 1, rest.size()));
            if (!line.empty() && line.back() == '\r')
                line.remove_suffix(1);
            if (++number_ > mostSdpLines)
                return Error{"has more than 500 lines", "the description", "Paste that of one stream."};
            if (line.empty())
                continue;
            take(line);
            if (error_)
                return *error_;
        }
        finish();
        if (error_)
            return *error_;
        if (best_)
            return *best_;
        return whyNot_
                   ? *whyNot_
                   : Error{"describes no sound", "the description", "A line \"m=audio 5004 RTP/AVP 98\" is missing."};
    }

  private:
    struct Map { // a=rtpmap
        int payload = -1;
        std::string encoding;
        double rate = 0;
        int channels = 1;
    };
    void fail(const std::string& what, const std::string& hint) {
        error_ = Error{what, print("line %d of the description", static_cast<int>(number_)), hint};
    }
    void take(std::string_view line) {
        if (!begun_ && line != "v=0")
            return fail("does not begin with \"v=0\"", "It is no description of a stream, or its begin is missing.");
        if (line.size() < 2 || line[1] != '=' || line[0] < 'a' || line[0] > 'z')
            return fail("is no line of a description: \"" + shown(line.substr(0, 40)) + "\"",
                        "Each line is a small letter, an equals sign and a value.");
        begun_ = true;
        const auto value = line.substr(2);
        switch (line[0]) {
        case 'o':
            return origin(value);
        case 's':
            if (!medium_)
                session_.name = shown(value);
            return;
        case 'c':
            return connection(value);
        case 'm':
            finish();
            if (!error_)
                medium(value);
            return;
        case 'a':
            return attribute(value);
        default: // i, t, b ... say nothing of how it sounds
            return;
        }
    }
    Description& now() { return medium_ ? one_ : session_; }
    void origin(std::string_view value) { // username, session, version, IN IP4 address
        const auto w = wordsOf(value);
        const auto session = w.size() == 6 ? whole(w[1], ~std::uint64_t(0)) : std::nullopt,
                   version = w.size() == 6 ? whole(w[2], ~std::uint64_t(0)) : std::nullopt;
        if (!session || !version)
            return fail("is no origin", "It is \"o=- 1 1 IN IP4 10.20.4.11\": a name, two whole numbers, an address.");
        session_.session = *session;
        session_.version = *version;
        session_.origin = w[4] == "IP4" && isIpv4(std::string(w[5])) ? std::string(w[5]) : std::string();
    }
    void connection(std::string_view value) { // IN IP4 239.20.4.17/32
        const auto w = wordsOf(value);
        if (w.size() == 3 && w[0] == "IN" && w[1] == "IP6")
            return fail("goes to an address of IPv6", "Streams are heard over IPv4 here.");
        if (w.size() != 3 || w[0] != "IN" || w[1] != "IP4")
            return fail("is no connection", "It is \"c=IN IP4 239.20.4.17/32\".");
        const auto parts = wordsOf(w[2], '/');
        const auto ttl = parts.size() > 1 ? whole(parts[1], 255) : std::optional<std::uint64_t>(0);
        if (parts.empty() || parts.size() > 2 || !isIpv4(std::string(parts[0])) || !ttl)
            return fail("has no address that is one: \"" + shown(w[2].substr(0, 40)) + "\"",
                        "It is \"c=IN IP4 239.20.4.17/32\"; the number behind is how many routers it may pass.");
        now().address = parts[0];
        now().ttl = static_cast<int>(*ttl);
    }
    void medium(std::string_view value) { // audio 5004 RTP/AVP 98
        const auto w = wordsOf(value);
        const auto port =
            w.size() >= 4 ? whole(wordsOf(w[1], '/').empty() ? w[1] : wordsOf(w[1], '/')[0], 65535) : std::nullopt;
        if (!port)
            return fail("is no medium", "It is \"m=audio 5004 RTP/AVP 98\".");
        medium_ = true;
        line_ = number_;
        one_ = session_;
        maps_.clear();
        payloads_.clear();
        ptime_.reset();
        one_.port = static_cast<int>(*port);
        one_.sealed = w[2] == "RTP/SAVP";
        audio_ = w[0] == "audio" && (w[2] == "RTP/AVP" || one_.sealed) && *port > 0;
        for (std::size_t k = 3; k < w.size() && k < 40; ++k)
            if (const auto p = whole(w[k], 127))
                payloads_.push_back(static_cast<int>(*p));
    }
    void attribute(std::string_view value) {
        const auto colon = value.find(':');
        const auto name = value.substr(0, colon);
        auto rest = colon == std::string_view::npos ? std::string_view() : value.substr(colon + 1);
        while (!rest.empty() && rest.front() == ' ')
            rest.remove_prefix(1);
        if (name == "rtpmap" && medium_)
            return map(rest);
        if (name == "ptime" && medium_) {
            ptime_ = decimal(rest);
            if (audio_ && !ptime_)
                fail("has no packet time: \"" + shown(rest.substr(0, 20)) + "\"", "It is in ms, \"a=ptime:1\".");
        } else if (name == "ts-refclk") {
            auto clock = shown(rest); // signs that cannot be shown have become blanks
            clock.erase(0, std::min(clock.find_first_not_of(' '), clock.size()));
            now().clock = clock;
        } else if (name == "mediaclk") {
            const auto offset =
                rest.starts_with("direct=") ? whole(rest.substr(7, rest.find(' ') - 7), 0xffffffff) : std::nullopt;
            now().clockOffset = offset ? std::optional(static_cast<std::uint32_t>(*offset)) : std::nullopt;
        } else if (name == "source-filter") { // incl IN IP4 destination source
            const auto w = wordsOf(rest);
            if (w.size() >= 5 && w[0] == "incl" && isIpv4(std::string(w[4])))
                now().source = w[4];
        }
    }
    void map(std::string_view value) { // 98 L24/48000/2
        const auto w = wordsOf(value);
        const auto parts = w.size() == 2 ? wordsOf(w[1], '/') : std::vector<std::string_view>{};
        const auto payload = w.size() == 2 ? whole(w[0], 127) : std::nullopt;
        const auto rate = parts.size() >= 2 ? whole(parts[1], 1000000) : std::nullopt;
        const auto channels = parts.size() >= 3 ? whole(parts[2], 10000) : std::optional<std::uint64_t>(1);
        if (!payload || !rate || !channels) {
            if (audio_)
                fail("does not say how its samples are written", "It is \"a=rtpmap:98 L24/48000/2\".");
            return;
        }
        if (maps_.size() < 40)
            maps_.push_back({static_cast<int>(*payload), std::string(parts[0]), static_cast<double>(*rate),
                             static_cast<int>(*channels)});
    }
    // The medium that was read: is it one that can be heard?
    void finish() {
        if (!medium_ || best_)
            return;
        medium_ = false;
        const auto no = [&](const std::string& what, const std::string& hint) {
            if (!whyNot_ && audio_)
                whyNot_ = Error{what, print("line %d of the description", static_cast<int>(line_)), hint};
        };
        if (!audio_)
            return;
        const Map* found = nullptr;
        for (const int p : payloads_)
            for (const auto& m : maps_)
                if (!found && m.payload == p && (m.encoding == "L24" || m.encoding == "L16"))
                    found = &m;
        if (!found)
            return no(maps_.empty() ? std::string("does not say how its samples are written")
                                    : "is written as " + shown(maps_.front().encoding.substr(0, 20)),
                      "L16 and L24 can be heard: \"a=rtpmap:98 L24/48000/2\".");
        one_.payload = found->payload;
        one_.format.encoding = found->encoding == "L16" ? Encoding::l16 : Encoding::l24;
        one_.format.rate = found->rate;
        one_.format.channels = found->channels;
        one_.format.frames = framesOf(ptime_.value_or(1), found->rate); // 1 ms where it is not said (AES67 7.2.1)
        if (one_.address.empty())
            return no("has no address", "A line \"c=IN IP4 239.20.4.17/32\" is missing.");
        if (const auto wrong = errorIn(one_.format))
            return no(wrong->message, wrong->remedy);
        best_ = one_;
    }

    const std::string& text_;
    std::size_t number_ = 0, line_ = 0;
    bool begun_ = false, medium_ = false, audio_ = false;
    Description session_ = [] {
        Description d;
        d.clock.clear();
        d.clockOffset.reset();
        return d;
    }();
    Description one_{};
    std::vector<Map> maps_{};
    std::vector<int> payloads_{};
    std::optional<double> ptime_{};
    std::optional<Description> best_{};
    std::optional<Error> error_{}, whyNot_{};
};

} // namespace

bool Description::multicast() const {
    const auto parts = wordsOf(address, '.');
    const auto first = parts.empty() ? std::nullopt : whole(parts[0], 255);
    return first && *first >= 224 && *first <= 239;
}

Result<Description> readSdp(const std::string& text) {
    return Parser(text).read();
}

bool isIpv4(const std::string& text) {
    const auto parts = wordsOf(text, '.');
    if (parts.size() != 4 || text.size() > 15 || std::count(text.begin(), text.end(), '.') != 3)
        return false;
    return std::all_of(parts.begin(), parts.end(), [](std::string_view p) { return whole(p, 255) && p.size() <= 3; });
}

std::string sdpText(const Description& d) {
    std::string text = "v=0\r\n";
    const auto line = [&](const std::string& l) { text += l + "\r\n"; };
    line("o=- " + std::to_string(d.session) + " " + std::to_string(d.version) + " IN IP4 " +
         (d.origin.empty() ? "0.0.0.0" : d.origin));
    line("s=" + (d.name.empty() ? std::string(" ") : shown(d.name))); // never empty (RFC 8866 5.3)
    line("c=IN IP4 " + d.address + (d.multicast() ? "/" + std::to_string(d.ttl) : std::string()));
    line("t=0 0");
    line("m=audio " + std::to_string(d.port) + (d.sealed ? " RTP/SAVP " : " RTP/AVP ") + std::to_string(d.payload));
    line("a=rtpmap:" + std::to_string(d.payload) + " " + nameOf(d.format.encoding) + "/" + plainText(d.format.rate) +
         "/" + std::to_string(d.format.channels));
    line("a=ptime:" + plainText(std::round(d.format.packetMs() * 1e6) / 1e6));
    line("a=recvonly");
    if (!d.source.empty())
        line("a=source-filter: incl IN IP4 " + d.address + " " + d.source);
    if (!d.clock.empty())
        line("a=ts-refclk:" + shown(d.clock));
    if (d.clockOffset)
        line("a=mediaclk:direct=" + std::to_string(*d.clockOffset));
    return text;
}

} // namespace loom::stream
