#include "record/verify.h"
#include "io/digest.h"
#include "io/file.h"
#include "units/text.h"
#include <fmt/format.h>

namespace ng {

const std::string before_first(64, '0');

Result<KeptHash> KeptHash::of(const std::string& words) {
    const auto colon = words.find(':');
    const auto digits = [](std::string_view t, std::string_view of) {
        return !t.empty() && t.find_first_not_of(of) == std::string_view::npos;
    };
    if (colon == std::string::npos || colon > 15 ||
        !digits(std::string_view(words).substr(0, colon), "0123456789") || words.size() != colon + 65 ||
        !digits(std::string_view(words).substr(colon + 1), "0123456789abcdef"))
        return refuse("hash", fmt::format("“{}” is none that a report prints", one_line(words, 80)),
                      "Give the number of rows, a colon and 64 hexadecimal digits");
    return KeptHash{std::stoll(words.substr(0, colon)), words.substr(colon + 1)};
}

void check_chain(const std::vector<Entry>& rows, const std::optional<KeptHash>& kept, Verification& out) {
    const auto say = [&](std::string words) { out.findings.push_back(std::move(words)); };
    std::string previous = before_first, utc;
    std::int64_t expected = 1;
    bool kept_found = false;
    for (const auto& e : rows) {
        const auto row = fmt::format("row {}", e.number);
        if (e.number != expected) {
            say(expected + 1 == e.number ? fmt::format("row {} is missing", expected)
                                         : fmt::format("rows {} to {} are missing", expected, e.number - 1));
            expected = e.number;
        }
        ++expected;
        if (e.previous != previous) say(row + " does not follow from the row before it");
        if (sha256_hex(canonical_bytes(e)) != e.hash) say(row + " was changed after it was written");
        previous = e.hash;
        if (e.body().empty()) out.remarks.push_back(row + " is of a kind that this version does not know");
        if (e.at.utc < utc)
            out.remarks.push_back(fmt::format(
                "{} was written at {}, before the row above it: the clock was set back", row, e.at.utc));
        utc = e.at.utc;
        if (kept && e.number == kept->rows) {
            kept_found = true;
            if (e.hash != kept->hash) say(row + " has another hash than the one that was kept elsewhere");
        }
    }
    if (rows.empty()) say("it has no rows");
    if (kept && !kept_found)
        say(fmt::format("it ends at row {}; the hash that was kept elsewhere is of row {}: rows were cut off",
                        expected - 1, kept->rows));
    out.last = {expected - 1, previous};
}

void check_files(const std::vector<Entry>& rows, const std::filesystem::path& folder, Verification& out) {
    for (const auto& e : rows) {
        if (e.kind != "file") continue;
        const auto body = e.body();
        const auto name = body.value("name", ""), hash = body.value("sha256", "");
        const auto bytes = read_file(folder / (hash + std::filesystem::path(name).extension().string()));
        if (bytes && sha256_hex(*bytes) == hash) continue;
        out.findings.push_back(fmt::format("row {}: its file “{}” {}", e.number, one_line(name, 80),
                                           bytes ? "was changed" : "is not there"));
    }
}

std::string Verification::words() const {
    if (!findings.empty())
        return fmt::format("{}{}", findings.front(),
                           findings.size() > 1 ? fmt::format(", and {} more", findings.size() - 1) : "");
    return fmt::format(
        "{} rows, each as it was written. That none was cut off at the end only a hash kept elsewhere can "
        "tell: keep {} in a signed print or an export",
        last.rows, last.words());
}

} // namespace ng
