// Documents are values: equality and hash follow every field, and files of earlier versions open in this
// program.
#include "design/prepared.h"
#include "design/unknown_fields.h"
#include "document/job.h"
#include "io/digest.h"
#include "io/file.h"
#include "record/state.h"
#include "section/section.h"
#include "study/study.h"
#include "support.h"

using namespace ng;
using nlohmann::json;

// A list of fields that leaves one out does not compile.
static_assert(lists_every_field<Point>);
static_assert(lists_every_field<OutlineStep>);
static_assert(lists_every_field<Outline>);
static_assert(lists_every_field<Override>);
static_assert(lists_every_field<CaliperReading>);
static_assert(lists_every_field<Cable>);
static_assert(lists_every_field<Duty>);
static_assert(lists_every_field<Tolerance>);
static_assert(lists_every_field<Correlated>);
static_assert(lists_every_field<WorkChoices>);
static_assert(lists_every_field<Fault>);
static_assert(lists_every_field<Revision>);
static_assert(lists_every_field<Design>);
static_assert(lists_every_field<DrawnPart>);
static_assert(lists_every_field<BodyDrawing>);
static_assert(lists_every_field<Job>);
static_assert(lists_every_field<SectionMaterial>);
static_assert(lists_every_field<Region>);
static_assert(lists_every_field<Electrode>);
static_assert(lists_every_field<Boundary>);
static_assert(lists_every_field<Path>);
static_assert(lists_every_field<Probe>);
static_assert(lists_every_field<Section>);

namespace {

const std::filesystem::path corpus = NEEDLEGAUGE_CORPUS_DIR;

/// A job in which every part of the format is used.
Job full_job() {
    auto job = test::demo_job();
    auto& design = *job.find_design("breakwater");
    Fault nick;
    nick.kind = "nick", nick.side = Side::a, nick.size_mm = 0.3, nick.from_edge_mm = 5;
    design.faults = {nick};
    Tolerance own;
    own.spread = 0.7, own.provenance = "chosen", own.lowest = 200;
    design.tolerances["a_screen_edge_mm"] = own;
    own.spread = 0.02, own.lowest.reset();
    design.tolerances["edge_radius_mm"] = own;
    design.correlated = {{"a_screen_edge_mm", "edge_radius_mm", 0.3, "chosen"}};
    design.work.long_side = "b";
    design.work.numbers["marking_gap_mm"] = 3;
    job.limit_overrides["electrode_edge"] = {3.2, "engineer A", "2026-12-02", "own measurements"};
    job.level_overrides["ieee48/15/bil_kV"] = {110, "engineer A", "2026-12-02", "own copy"};
    job.material_overrides["xlpe"] = 2.4;
    job.step_texts["clean"] = "Our words";
    job.cables[0].measured_diameter_mm["insulation"] = 25.1;
    job.cables[0].caliper_readings["jacket"] = {{34.1, false}, {34.3, true}};
    return job;
}

/// Every number, word and flag of a document, as a pointer to it.
void leaves(const json& of, const json::json_pointer& at, std::vector<json::json_pointer>& out) {
    if (of.is_structured()) {
        for (const auto& [key, value] : of.items())
            leaves(value, of.is_array() ? at / static_cast<std::size_t>(std::stoul(key)) : at / key, out);
    } else {
        out.push_back(at);
    }
}

} // namespace

class TestDocuments : public QObject {
    Q_OBJECT
  private slots:
    void a_job_equals_itself_and_has_one_hash() {
        const auto job = full_job();
        const auto copy = job;
        QVERIFY(copy == job);
        QCOMPARE(hash_of(copy), hash_of(job));
        QCOMPARE(hash_of(job).size(), std::size_t(64));
        const auto again = read_job(json(write_job(job)), "again");
        REQUIRE_OK(again);
        QVERIFY(*again == job);
        QCOMPARE(hash_of(*again), hash_of(job));
    }
    void every_field_of_the_file_counts_for_equality_and_hash() {
        const auto job = full_job();
        const json document = write_job(job);
        std::vector<json::json_pointer> all;
        leaves(document, json::json_pointer(), all);
        int changed = 0, refused = 0;
        std::set<std::string> hashes{hash_of(job)};
        for (const auto& at : all) {
            auto other = document;
            auto& leaf = other[at];
            if (leaf.is_number())
                leaf = leaf.get<double>() * 1.0009765625;
            else if (leaf.is_boolean())
                leaf = !leaf.get<bool>();
            else if (leaf.is_string())
                leaf = leaf.get<std::string>() + "x";
            const auto read = read_job(other, "changed");
            if (!read) { // a word that must be one of a list, or an id that others name
                ++refused;
                continue;
            }
            ++changed;
            QVERIFY2(!(*read == job), at.to_string().c_str());
            QVERIFY2(hashes.insert(hash_of(*read)).second, at.to_string().c_str());
        }
        QVERIFY2(changed > 200 && changed > 4 * refused, fmt::format("{} {}", changed, refused).c_str());
    }
    void the_hash_of_a_value_never_changes() {
        // Of files that are kept: whoever changes the hash makes a new version of them.
        QCOMPARE(hash_of(std::string("abc")), sha256_hex(std::string("\3\0\0\0\0\0\0\0abc", 11)));
        QCOMPARE(hash_of(1.5), sha256_hex(std::string("\0\0\0\0\0\0\xf8\x3f", 8)));
        QCOMPARE(hash_of(-0.0), hash_of(0.0));
        QVERIFY(hash_of(std::vector<std::string>{"a", "b"}) != hash_of(std::vector<std::string>{"ab", ""}));
        QVERIFY(hash_of(std::optional<double>()) != hash_of(std::optional<double>(0.0)));
    }
    void sections_are_values_too() {
        const auto text = read_file(corpus / "v1/quay-mast.ngsection");
        REQUIRE_OK(text);
        const auto section = read_section_text(*text, "quay-mast");
        REQUIRE_OK(section);
        auto other = *section;
        QVERIFY(other == *section && hash_of(other) == hash_of(*section));
        other.electrodes[0].voltage_kV += 1;
        QVERIFY(!(other == *section) && hash_of(other) != hash_of(*section));
        QVERIFY(same_shapes(other, *section));
        other.regions[0].outline.start.z += 1e-9;
        QVERIFY(!same_shapes(other, *section));
    }
    // ---- files of version 1, as the program before this one wrote them
    void jobs_of_version_1_open_and_become_version_2() {
        for (const auto* name : {"osprey-point.ngjob", "drawn-bodies.ngjob"}) {
            const auto job = load_job(corpus / "v1" / name);
            REQUIRE_OK(job);
            QVERIFY(unknown_fields(*job, FamilyTable::shipped()).empty());
            const auto written = write_job(*job);
            QCOMPARE(written["version"].get<int>(), 2);
            QVERIFY(*read_job(json(written), name) == *job);
            for (const auto& design : job->designs)
                REQUIRE_OK(prepare_design(*job, design.id, test::library()));
        }
    }
    void sections_of_version_1_open() {
        const auto text = read_file(corpus / "v1/quay-mast.ngsection");
        REQUIRE_OK(text);
        QCOMPARE(json::parse(*text)["version"].get<int>(), 1);
        const auto section = read_section_text(*text, "quay-mast");
        REQUIRE_OK(section);
        QCOMPARE(write_section(*section)["version"].get<int>(), 2);
        QVERIFY(*read_section(json(write_section(*section))) == *section);
    }
    void records_of_version_1_open_verify_and_become_version_2_with_their_next_row() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("osprey-point.nglog").toStdString();
        std::filesystem::copy_file(corpus / "v1/osprey-point.nglog", path);
        std::size_t rows = 0;
        {
            auto log = Log::open(path);
            REQUIRE_OK(log);
            rows = log->entries().size();
            QVERIFY(rows > 40 && log->verify().holds());
            const auto record = record_of(*log, accessories_of(*log).front());
            REQUIRE_OK(record);
            QVERIFY(!record->sign_offs.empty());
            for (const auto& s : record->sign_offs) QCOMPARE(s.rules(), rules_before_versions);
            EntryDraft note{.kind = "note", .who = {"jointer", "JB"}, .accessory = record->number};
            note.body = {{"text", "Opened with a later program"}};
            REQUIRE_OK(log->append(note));
        }
        const auto again = Log::open(path, Log::Access::read);
        REQUIRE_OK(again);
        QCOMPARE(again->entries().size(), rows + 1);
        QVERIFY(again->verify().holds());
        // SQLite file format, bytes 60 to 63: user_version. An old program, which knows 1 alone, refuses it.
        const auto bytes = read_file(path);
        REQUIRE_OK(bytes);
        QCOMPARE(int(static_cast<unsigned char>((*bytes)[63])), 2);
    }
    void rows_of_version_1_are_read_and_say_that_their_rules_had_no_number() {
        const auto text = read_file(corpus / "v1/meter-panel-rows.csv");
        REQUIRE_OK(text);
        const auto table = read_table(*text, "meter-panel-rows.csv");
        REQUIRE_OK(table);
        QCOMPARE(table->rows.size(), std::size_t(16));
        QCOMPARE(table->rules, rules_before_versions);
        auto newer = *text;
        newer.replace(0, newer.find('\n'), "# needlegauge-study 3");
        const auto refused = read_table(newer, "rows");
        QVERIFY(!refused && refused.error().problem.find("newer") != std::string::npos);
    }
    void what_a_newer_program_wrote_is_refused() {
        auto job = json(write_job(test::demo_job()));
        job["version"] = job_format_version + 1;
        QVERIFY(read_job(job, "job").error().problem.find("newer") != std::string::npos);
        const auto text = read_file(corpus / "v1/quay-mast.ngsection");
        auto section = json::parse(*text);
        section["version"] = section_format_version + 1;
        QVERIFY(!read_section(section));
    }
};

QTEST_APPLESS_MAIN(TestDocuments)
#include "test_documents.moc"
