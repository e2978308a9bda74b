#include "trainer/means.h"
#include "io/digest.h"
#include "io/file.h"
#include "io/json_reader.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

/// Reads threshold, spread and best chance where they are given, else leaves what is there.
void read_chance(JsonReader& in, const char* threshold, Inspection& inspection) {
    inspection.a50_mm = in.number_or(threshold, inspection.a50_mm);
    inspection.s = in.number_or("s", inspection.s);
    inspection.c = in.number_or("c", inspection.c);
    if (!(inspection.a50_mm >= 0) || !(inspection.s > 0) || !(inspection.c > 0) || !(inspection.c <= 1))
        in.fail(fmt::format("“{}”, “s” or “c” is no chance", threshold),
                "Give a threshold not below 0, a spread above 0 and a best chance up to 1");
}

Result<Means> read_one(const nlohmann::json& value, const std::string& file) {
    JsonReader in(value, file + ", a means");
    Means m;
    m.id = in.text("id");
    m.title = in.text("title");
    m.how = in.text("how");
    m.seconds = in.number("seconds");
    m.reads_mm = in.number_or("reads_mm", 0);
    if (!(m.seconds > 0) || m.reads_mm < 0) in.fail("its time or reading is no number above 0", "Correct it");
    if (const auto& discharge = in.object("discharge"); !discharge.empty()) {
        JsonReader of(discharge, fmt::format("{}, {}, “discharge”", file, m.id));
        m.discharge = Inspection{m.title, 0, 0, 0};
        m.discharge->a50_mm = of.number("q50_pC");
        read_chance(of, "q50_pC", *m.discharge);
        if (!of.ok()) return tl::unexpected(*of.error());
    }
    for (const auto& row : in.array("finds", true)) {
        JsonReader of(row, fmt::format("{}, {}, “finds”", file, m.id));
        Sight s;
        s.kind = of.text("kind");
        s.sees = of.text("sees");
        const auto* kind = find_fault_kind(s.kind);
        if (!kind) {
            of.fail(fmt::format("“{}” is no kind of fault", one_line(s.kind, 60)),
                    "Give one that “faults --fits” lists");
        } else {
            s.inspection = kind->inspection;
            s.inspection.means = m.title;
            read_chance(of, "a50_mm", s.inspection);
        }
        if (!of.ok()) return tl::unexpected(*of.error());
        m.sights.push_back(std::move(s));
    }
    if (!in.ok()) return tl::unexpected(*in.error());
    return m;
}

} // namespace

std::string spent_words(double seconds) {
    return seconds < 60 ? fmt::format("{:.0f} s", seconds) : fmt::format("{:.3g} min", seconds / 60);
}

const Means* MeansTable::find(const std::string& id) const {
    const auto it = std::find_if(means.begin(), means.end(), [&](const auto& m) { return m.id == id; });
    return it == means.end() ? nullptr : &*it;
}

Result<MeansTable> read_means(const nlohmann::json& document, const std::string& file) {
    if (auto v = check_format(document, "needlegauge-means", 1, file); !v) return tl::unexpected(v.error());
    JsonReader in(document, file);
    MeansTable out;
    out.origin = in.text("origin");
    for (const auto& value : in.array("means", true)) {
        auto one = read_one(value, file);
        if (!one) return tl::unexpected(one.error());
        if (out.find(one->id)) return refuse(file, fmt::format("“{}” is there twice", one->id), "Remove one");
        out.means.push_back(std::move(*one));
    }
    JsonReader costs(in.object("costs", true), file + ", “costs”");
    if (!in.ok()) return tl::unexpected(*in.error());
    for (const auto& [key, minutes] : {std::pair{"rework_minutes", &out.rework_minutes},
                                       {"cut_back_minutes", &out.cut_back_minutes},
                                       {"failure_minutes", &out.failure_minutes}})
        if (*minutes = costs.number(key); !(*minutes > 0))
            costs.fail(fmt::format("“{}” is not above zero", key), "Correct it");
    if (!costs.ok()) return tl::unexpected(*costs.error());
    return out;
}

Result<TrainerData> load_trainer(const Library& library) {
    TrainerData out;
    out.library = &library;
    auto book = load_steps(library);
    if (!book) return tl::unexpected(book.error());
    out.book = std::move(*book);
    const auto path = library.folder / "trainer/means.json";
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, "means.json");
    if (!document) return tl::unexpected(document.error());
    auto means = read_means(*document, "means.json");
    if (!means) return tl::unexpected(means.error());
    out.means = std::move(*means);
    std::vector<std::filesystem::path> files;
    for (const char* folder :
         {"standards", "limits", "materials", "cables", "kits", "connectors", "bodies", "steps", "trainer"}) {
        std::error_code failed;
        for (const auto& entry : std::filesystem::directory_iterator(library.folder / folder, failed))
            if (entry.is_regular_file(failed)) files.push_back(entry.path());
        if (failed) return refuse(folder, "its tables cannot be read", "Install the program's data again");
    }
    std::sort(files.begin(), files.end());
    std::string all;
    for (const auto& file : files) {
        const auto bytes = read_file(file, most_table_bytes);
        if (!bytes) return tl::unexpected(bytes.error());
        all += file.filename().string() + " " + sha256_hex(*bytes) + "\n";
    }
    out.hash = sha256_hex(all);
    return out;
}

} // namespace ng
