#include "site/protocol.h"

namespace loom::site {

const std::vector<MessageInfo>& allMessages() {
    static const std::vector<MessageInfo> all = {
#define LOOM_ONE(id, wire, Ask, Answer, who, says)                                                                     \
    {wire, Caller::who, says, schema::jsonSchema<Ask>(wire), schema::jsonSchema<Answer>(wire)},
        LOOM_MESSAGES(LOOM_ONE)
#undef LOOM_ONE
    };
    return all;
}

std::vector<NoticeInfo> allNotices() {
    return {
#define LOOM_ONE(id, wire, T, says) {wire, says, schema::jsonSchema<T>(wire)},
        LOOM_NOTICES(LOOM_ONE)
#undef LOOM_ONE
    };
}

std::string wordOf(Caller caller) {
    switch (caller) {
    case Caller::anyone:
        return "anyone";
    case Caller::encrypted:
        return "an encrypted line";
    case Caller::unlocked:
        break;
    }
    return "an unlocked line";
}

Refusal refusalFor(Caller needed, bool encrypted, const std::string& serial) {
    if (needed != Caller::anyone && !encrypted)
        return {Code::openLine, {"this travels on an encrypted line only", serial, "Call secure first."}};
    return {Code::locked, {"it is sealed", serial, "Unlock it with the room's password."}};
}

} // namespace loom::site
