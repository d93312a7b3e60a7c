#include "loudspeaker/sheet.h"
#include "loudspeaker/sheet/layout.h"

namespace loom::loudspeaker {

Sheet readSheet(const std::string& text) {
    Sheet read;
    std::size_t at = 0;
    while (at < text.size() && at < maxSheetBytes && read.lines.size() < maxSheetLines) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        read.lines.push_back(text.substr(at, std::min<std::size_t>(end - at, 1000)));
        at = end + 1;
    }
    sheet::readLayout(read, sheet::Lexicon::standard());
    if (at < text.size())
        read.lines.push_back("(the rest of the text is too long and was not read)");
    return read;
}

} // namespace loom::loudspeaker
