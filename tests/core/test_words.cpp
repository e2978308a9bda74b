// Words that names and comments do not use any more (docs/words.md): what is left of each may only fall.
#include "io/file.h"
#include "support.h"
#include <regex>
#include <sstream>

namespace {

const std::filesystem::path source = NEEDLEGAUGE_SOURCE_DIR;

struct Forbidden {
    std::vector<std::string> words;
    int left = 0; ///< occurrences that are still allowed
};

/// The rows "| `word`, `word` | write | left | why |" below "## Words of code".
std::vector<Forbidden> forbidden(const std::string& page) {
    std::vector<Forbidden> out;
    std::stringstream lines(page.substr(std::min(page.find("## Words of code"), page.size())));
    static const std::regex word("`([^`]+)`");
    for (std::string line; std::getline(lines, line);) {
        if (!line.starts_with("| `")) continue;
        std::vector<std::string> cells;
        std::stringstream in(line);
        for (std::string cell; std::getline(in, cell, '|');) cells.push_back(cell);
        if (cells.size() < 5) continue;
        Forbidden one;
        for (std::sregex_iterator it(cells[1].begin(), cells[1].end(), word), end; it != end; ++it)
            one.words.push_back((*it)[1]);
        one.left = std::stoi(cells[3]);
        out.push_back(std::move(one));
    }
    return out;
}

bool is_part_of_a_word(char c) {
    return std::isalpha(static_cast<unsigned char>(c)) || c == '_';
}

/// How often a word stands in a text as a word of its own.
int count(const std::string& text, const std::string& word) {
    int out = 0;
    for (auto at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
        const auto end = at + word.size();
        out += (at == 0 || !is_part_of_a_word(text[at - 1])) &&
               (end == text.size() || !is_part_of_a_word(text[end]));
    }
    return out;
}

} // namespace

class TestWords : public QObject {
    Q_OBJECT
  private slots:
    void words_are_counted_whole() {
        QCOMPARE(count("hands, hands_on; handset; a hands", "hands"), 2);
        QCOMPARE(count("hands", "hands"), 1);
        const auto rows = forbidden("## Words of code\n| `a`, `b c` | d | 3 | e |\n");
        QCOMPARE(rows.size(), std::size_t(1));
        QCOMPARE(rows[0].words, (std::vector<std::string>{"a", "b c"}));
        QCOMPARE(rows[0].left, 3);
    }
    void what_is_not_written_any_more_only_falls() {
        const auto page = ng::read_file(source / "docs/words.md");
        REQUIRE_OK(page);
        const auto rows = forbidden(*page);
        QVERIFY(rows.size() >= 15);
        std::string all;
        for (const auto& entry : std::filesystem::recursive_directory_iterator(source / "src"))
            if (const auto ending = entry.path().extension(); ending == ".cpp" || ending == ".h")
                all += *ng::read_file(entry.path()) + "\n";
        QVERIFY(all.size() > 1000000);
        for (const auto& row : rows) {
            int found = 0;
            for (const auto& word : row.words) found += count(all, word);
            QVERIFY2(found <= row.left, fmt::format("“{}” stands {} times in src, docs/words.md allows {}",
                                                    row.words.front(), found, row.left)
                                            .c_str());
        }
    }
};

QTEST_APPLESS_MAIN(TestWords)
#include "test_words.moc"
