#include "voicings/sheet_patterns.h"
#include "disk/safe_file.h"
#include "engine/program.h"
#include "voicings/voicing_library.h"
#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

namespace loom::project {

namespace fs = std::filesystem;
using loudspeaker::SheetPattern;
using nlohmann::json;

namespace {

constexpr std::size_t mostPatternBytes = 1u << 20, mostPatterns = 1000, mostWords = 2000;

} // namespace

std::string sheetPatternFolder() {
    return (fs::path(voicingFolder()).parent_path() / "sheets").string();
}

std::string patternText(const SheetPattern& p) {
    json j = {{"format", "nimble-loom-sheet-pattern"}, {"version", 1}, {"name", p.name}};
    if (!p.maker.empty())
        j["maker"] = p.maker;
    j["labels"] = p.labels;
    j["words"] = p.words;
    j["answers"] = p.answers;
    return j.dump(2) + "\n";
}

Result<SheetPattern> readPattern(const std::string& text, const std::string& name) {
    if (text.size() > mostPatternBytes)
        return Error{"is larger than 1 MiB", name, "A pattern has some dozen words."};
    const json j = json::parse(text, nullptr, false);
    if (!j.is_object() || j.value("format", json()) != "nimble-loom-sheet-pattern")
        return Error{"is no pattern of sheets", name, "It has \"format\": \"nimble-loom-sheet-pattern\"."};
    SheetPattern p;
    const auto string = [&](const char* key) {
        return j.contains(key) && j[key].is_string() ? j[key].get<std::string>() : std::string();
    };
    p.name = string("name").substr(0, 200);
    p.maker = string("maker").substr(0, 200);
    if (p.name.empty())
        return Error{"has no name", name, "Give it a \"name\"."};
    const auto strings = [](const json& list, std::vector<std::string>& to) {
        if (!list.is_array() || list.size() > mostWords)
            return false;
        for (const auto& one : list) {
            if (!one.is_string() || one.get_ref<const std::string&>().size() > 200)
                return false;
            to.push_back(one);
        }
        return true;
    };
    if (j.contains("labels") && !strings(j["labels"], p.labels))
        return Error{"has labels that are no list of texts", name + ", labels", ""};
    if (j.contains("words")) {
        if (!j["words"].is_object())
            return Error{"has words that are no object", name + ", words", ""};
        for (const auto& one : j["words"].items()) {
            const std::string& meaning = one.key();
            const json& list = one.value();
            const auto& known = loudspeaker::meaningsToSay();
            if (std::none_of(known.begin(), known.end(), [&](const auto& m) { return m.first == meaning; }))
                return Error{"knows no meaning \"" + meaning.substr(0, 60) + "\"", name + ", words",
                             "docs/format.md lists them."};
            if (!strings(list, p.words[meaning]))
                return Error{"has words that are no list of texts", name + ", words, " + meaning, ""};
        }
    }
    if (j.contains("answers")) {
        if (!j["answers"].is_object() || j["answers"].size() > mostWords)
            return Error{"has answers that are no object", name + ", answers", ""};
        for (const auto& [topic, choice] : j["answers"].items()) {
            if (!choice.is_number_unsigned() || choice.get<std::size_t>() > 1000)
                return Error{"has an answer that is no number", name + ", answers, " + topic.substr(0, 60), ""};
            p.answers[topic.substr(0, 100)] = choice;
        }
    }
    return p;
}

std::vector<SheetPattern> sheetPatterns(std::vector<Error>* errors) {
    std::vector<SheetPattern> all;
    std::error_code none;
    std::vector<fs::path> files;
    for (const auto& e : fs::directory_iterator(sheetPatternFolder(), none))
        if (e.path().extension() == ".json" && files.size() < mostPatterns)
            files.push_back(e.path());
    std::sort(files.begin(), files.end());
    for (const auto& path : files) {
        const auto text = readWhole(path.string(), mostPatternBytes);
        auto read = text ? readPattern(*text, path.string()) : Result<SheetPattern>(text.error());
        if (read)
            all.push_back(std::move(*read));
        else if (errors)
            errors->push_back(read.error());
    }
    return all;
}

Result<std::string> keepPattern(SheetPattern p) {
    std::error_code failed;
    fs::create_directories(sheetPatternFolder(), failed);
    std::string file = engine::slug(p.name).substr(0, 60);
    const std::string path = (fs::path(sheetPatternFolder()) / ((file.empty() ? "sheets" : file) + ".json")).string();
    if (const auto text = readWhole(path, mostPatternBytes))
        if (auto before = readPattern(*text, path)) { // newer words and answers win
            for (auto& [meaning, words] : before->words)
                for (auto& w : words)
                    if (std::none_of(p.words.begin(), p.words.end(), [&](const auto& one) {
                            return std::find(one.second.begin(), one.second.end(), w) != one.second.end();
                        }))
                        p.words[meaning].push_back(w);
            p.answers.insert(before->answers.begin(), before->answers.end());
            for (const auto& l : before->labels)
                if (std::find(p.labels.begin(), p.labels.end(), l) == p.labels.end() && p.labels.size() < 60)
                    p.labels.push_back(l);
        }
    if (auto done = writeWhole(path, patternText(p), false); !done)
        return done.error();
    return path;
}

} // namespace loom::project
