#include "model/contact.h"
#include <sstream>

namespace loom::project {

namespace {

std::vector<std::string> wordsIn(const std::string& text) {
    std::vector<std::string> all;
    std::istringstream in(text);
    for (std::string one; in >> one;)
        all.push_back(one);
    return all;
}

} // namespace

Result<ContactUse> readContact(const std::string& id, const std::string& text) {
    const bool relay = id.rfind("relay ", 0) == 0;
    if (!relay && id.rfind("contact ", 0) != 0)
        return Error{"is no contact or relay", id.substr(0, 40), "They are called contact 1 and relay 1."};
    const auto words = wordsIn(text);
    if (words.empty())
        return ContactUse{};
    if (text.size() > 200)
        return Error{"is longer than 200 bytes", id, ""};
    if (!relay && words.size() == 3 && words[0] == "wall")
        return ContactUse{ContactUse::Kind::wall, words[1], words[2]};
    if (!relay && words.size() == 2 && words[0] == "mute")
        return ContactUse{ContactUse::Kind::mute, "", words[1]};
    if (relay && words.size() == 2 && words[0] == "lamp")
        return ContactUse{ContactUse::Kind::lamp, "", words[1]};
    return Error{"\"" + text.substr(0, 40) + "\" is no use of it", id,
                 relay ? "A relay has \"lamp ROOMS\"." : "A contact has \"wall WALL ROOMS\" or \"mute ROOMS\"."};
}

std::string contactText(const ContactUse& use) {
    switch (use.kind) {
    case ContactUse::Kind::wall:
        return "wall " + use.wall + " " + use.space;
    case ContactUse::Kind::mute:
        return "mute " + use.space;
    case ContactUse::Kind::lamp:
        return "lamp " + use.space;
    case ContactUse::Kind::none:
        break;
    }
    return "";
}

Result<MuteUse> readMuteUse(const std::string& text) {
    const auto words = wordsIn(text);
    if (words.size() != 2 || text.size() > 200 || (words[1] != "sets" && words[1] != "shows"))
        return Error{"\"" + text.substr(0, 40) + "\" says not what it does about a mute", "",
                     "Say a space and \"sets\" or \"shows\"."};
    return MuteUse{words[0], words[1] == "sets"};
}

} // namespace loom::project
