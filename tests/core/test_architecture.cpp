// The folders and the arrows between them are those that docs/architecture.md draws, and no arrow runs
// upwards.
#include "io/file.h"
#include "support.h"
#include <regex>
#include <set>
#include <sstream>

namespace {

using Arrows = std::map<std::string, std::set<std::string>>;
const std::filesystem::path source = NEEDLEGAUGE_SOURCE_DIR;

/// Folder of a file below src: that of the core without "core/", those within app apart.
std::string folder_of(const std::filesystem::path& below_src) {
    const auto folder = below_src.parent_path().generic_string();
    return folder.starts_with("core/") ? folder.substr(5) : folder;
}

/// From each folder to those whose headers its files include.
Arrows drawn_by_includes() {
    Arrows arrows;
    static const std::regex include("^#include \"([a-z_/]+)\\.h\"");
    for (const auto& entry : std::filesystem::recursive_directory_iterator(source / "src")) {
        const auto extension = entry.path().extension();
        if (extension != ".cpp" && extension != ".h") continue;
        const auto from = folder_of(std::filesystem::relative(entry.path(), source / "src"));
        arrows[from];
        std::stringstream lines(*ng::read_file(entry.path()));
        std::smatch found;
        for (std::string line; std::getline(lines, line);)
            if (std::regex_search(line, found, include))
                if (const auto to = folder_of(found[1].str()); to != from) arrows[from].insert(to);
    }
    return arrows;
}

/// The lines "folder -> folders (what is in it)" of the picture, in their order.
std::vector<std::pair<std::string, std::set<std::string>>> picture() {
    std::vector<std::pair<std::string, std::set<std::string>>> out;
    std::stringstream lines(*ng::read_file(source / "docs/architecture.md"));
    for (std::string line; std::getline(lines, line);) {
        const auto arrow = line.find("->");
        if (arrow == std::string::npos || line.starts_with(" ")) continue;
        std::stringstream words(line.substr(arrow + 2));
        out.emplace_back(line.substr(0, line.find(' ')), std::set<std::string>{});
        for (std::string word; words >> word && !word.starts_with("(");) out.back().second.insert(word);
    }
    return out;
}

} // namespace

class TestArchitecture : public QObject {
    Q_OBJECT
  private slots:
    void every_arrow_is_drawn_and_none_is_made_up() {
        const auto found = drawn_by_includes();
        Arrows drawn;
        for (const auto& [from, to] : picture()) drawn[from] = to;
        for (const auto& [from, to] : found) {
            QVERIFY2(drawn.contains(from), ("not in the picture: " + from).c_str());
            for (const auto& one : to)
                QVERIFY2(drawn[from].contains(one), (from + " -> " + one + " is not drawn").c_str());
        }
        for (const auto& [from, to] : drawn) {
            QVERIFY2(found.contains(from), ("no such folder: " + from).c_str());
            for (const auto& one : to)
                QVERIFY2(found.at(from).contains(one), (from + " -> " + one + " is drawn only").c_str());
        }
    }
    void arrows_run_downwards() {
        std::set<std::string> above;
        for (const auto& [from, to] : picture()) {
            above.insert(from);
            for (const auto& one : to)
                QVERIFY2(!above.contains(one), (from + " -> " + one + " runs upwards").c_str());
        }
        QVERIFY(above.size() > 15);
    }
};

QTEST_APPLESS_MAIN(TestArchitecture)
#include "test_architecture.moc"
