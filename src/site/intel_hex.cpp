#include "site/intel_hex.h"
#include <algorithm>
#include <numeric>
#include <sstream>

namespace loom::site {
namespace {

constexpr std::size_t perLine = 16;

void addRecord(std::string& text, std::uint8_t type, std::uint16_t address, const std::uint8_t* data, std::size_t n) {
    static const char digits[] = "0123456789ABCDEF";
    std::uint8_t sum = 0;
    const auto put = [&](std::uint8_t byte) {
        text += digits[byte >> 4];
        text += digits[byte & 15];
        sum = static_cast<std::uint8_t>(sum + byte);
    };
    text += ':';
    put(static_cast<std::uint8_t>(n));
    put(static_cast<std::uint8_t>(address >> 8));
    put(static_cast<std::uint8_t>(address));
    put(type);
    for (std::size_t i = 0; i < n; ++i)
        put(data[i]);
    put(static_cast<std::uint8_t>(0x100 - sum));
    text += '\n';
}

int digit(char c) {
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
                                  : -1;
}

} // namespace

std::string toIntelHex(const Bytes& bytes) {
    std::string text;
    std::size_t page = 0;
    for (std::size_t at = 0; at < bytes.size(); at += perLine) {
        if (at >> 16 != page) {
            page = at >> 16;
            const std::uint8_t upper[] = {static_cast<std::uint8_t>(page >> 8), static_cast<std::uint8_t>(page)};
            addRecord(text, 4, 0, upper, 2);
        }
        addRecord(text, 0, static_cast<std::uint16_t>(at), bytes.data() + at, std::min(perLine, bytes.size() - at));
    }
    addRecord(text, 1, 0, nullptr, 0);
    return text;
}

Result<Bytes> fromIntelHex(const std::string& text, std::size_t most) {
    Bytes bytes;
    std::size_t page = 0;
    int number = 0;
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        ++number;
        const auto wrong = [&](const std::string& what) {
            return Error{what, "line " + std::to_string(number), "Make the image anew."};
        };
        while (!line.empty() && (line.back() == '\r' || line.back() == ' '))
            line.pop_back();
        if (line.empty())
            continue;
        if (line[0] != ':' || line.size() % 2 == 0 || line.size() < 11 || line.size() > 521)
            return wrong("is no record of an Intel HEX file");
        Bytes record;
        for (std::size_t i = 1; i < line.size(); i += 2) {
            const int high = digit(line[i]), low = digit(line[i + 1]);
            if (high < 0 || low < 0)
                return wrong("has a letter that is no hexadecimal digit");
            record.push_back(static_cast<std::uint8_t>(high * 16 + low));
        }
        const std::size_t n = record[0];
        if (record.size() != n + 5)
            return wrong("does not have the length that it says");
        if (std::accumulate(record.begin(), record.end(), 0u) % 256 != 0)
            return wrong("has a wrong checksum: it was damaged");
        const std::size_t address = page * 65536 + record[1] * 256u + record[2];
        switch (record[3]) {
        case 0:
            if (address + n > most)
                return wrong("lies beyond the store of " + std::to_string(most) + " bytes");
            bytes.resize(std::max(bytes.size(), address + n), 255);
            std::copy_n(record.begin() + 4, n, bytes.begin() + static_cast<std::ptrdiff_t>(address));
            break;
        case 1:
            return bytes;
        case 4:
            if (n != 2)
                return wrong("does not have the length that it says");
            page = record[4] * 256u + record[5];
            break;
        default:
            return wrong("is a record of a kind that images do not have");
        }
    }
    return Error{"has no end: it was cut off", "line " + std::to_string(number), "Make the image anew."};
}

} // namespace loom::site
