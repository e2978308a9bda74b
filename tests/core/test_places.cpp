// Places are what the program goes by; labels are for people: whatever they say, figures, marks and sheets
// stay.
#include "io/file.h"
#include "plan/sheet.h"
#include "support.h"
#include <random>

using namespace ng;

namespace {

const Library& library() {
    return test::library();
}

/// Every label and title that a family gave becomes noise.
void rename_labels(PreparedDesign& prepared, unsigned seed) {
    std::mt19937 random(seed);
    const auto noise = [&](const std::string& label) {
        std::string out = "x"; // figures within a label stay: they are compared
        for (const char c : label)
            out += std::isdigit(static_cast<unsigned char>(c)) ? c : static_cast<char>('a' + random() % 26);
        return out + (random() % 2 ? " A" : " B"); // a side that it is not
    };
    auto& built = prepared.built;
    for (auto& part : built.parts)
        if (!part.label.empty()) part.label = noise(part.label);
    for (auto& mark : built.marks) mark.label = noise(mark.label);
    for (auto& handle : built.handles) handle.label = noise(handle.label);
    for (auto& check : built.checks) check.title = noise(check.title);
    for (auto& item : built.fit) item.part = noise(item.part);
    for (auto& part : built.placed) part.part = part.label = noise(part.label);
    for (auto& build_up : built.build_ups) build_up.part = noise(build_up.part);
}

/// What a text says in figures: its digits in their order.
std::string figures_of(const std::string& text) {
    std::string out;
    for (const char c : text)
        if (std::isdigit(static_cast<unsigned char>(c)) || c == '.') out += c;
    return out;
}

} // namespace

class TestPlaces : public QObject {
    Q_OBJECT
  private slots:
    void every_place_has_one_name_and_is_found_by_it() {
        std::set<std::string> names;
        int places = 0;
        for (const auto kind : {
#define NEEDLEGAUGE_PLACE(name, words) PlaceKind::name,
                 NEEDLEGAUGE_PLACES(NEEDLEGAUGE_PLACE)
#undef NEEDLEGAUGE_PLACE
             })
            for (const auto side : {Side::none, Side::a, Side::b, Side::rod})
                for (const int index : {0, 1, 2, 17})
                    for (const auto edge :
                         {EdgePart::none, EdgePart::inner, EdgePart::outer, EdgePart::tip}) {
                        if (index == 0 && words_of(kind).find('#') != std::string_view::npos) continue;
                        const auto id = PlaceId(kind).on(side).number(index).part(edge);
                        ++places;
                        QVERIFY2(names.insert(name_of(id)).second, name_of(id).c_str());
                        const auto found = place_of(name_of(id));
                        QVERIFY2(found && *found == id, name_of(id).c_str());
                    }
        QVERIFY(places > 5000);
    }
    void what_is_no_place_is_none() {
        for (const char* text :
             {"", " ", "screen", "screen edge C", "Screen edge", "shed 0", "shed 01", "shed -1",
              "shed 99999999999999", "core # outward", "screen edge, inner A", "insulation surface  A"})
            QVERIFY2(!place_of(text), text);
    }
    void parts_paths_and_edges_of_all_designs_are_places() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto prepared = prepare_design(job, design.id, library());
            REQUIRE_OK(prepared);
            const auto check = [&](const std::string& name) {
                QVERIFY2(place_of(name), (design.id + ": " + name).c_str());
            };
            const auto check_section = [&](const Section& section) {
                for (const auto& region : section.regions) check(region.name);
                for (const auto& electrode : section.electrodes) {
                    check(electrode.name);
                    for (const auto& step : electrode.outline.steps)
                        if (!step.name.empty()) check(step.name);
                }
                for (const auto& boundary : section.boundaries) check(boundary.name);
                for (const auto& path : section.paths) check(path.name);
            };
            check_section(prepared->built.section);
            for (const auto& across : prepared->built.across) check_section(across.section);
            std::set<PlaceId> marks;
            const auto plan = make_plan(*prepared);
            REQUIRE_OK(plan);
            for (const auto& mark : plan->marks)
                QVERIFY2(marks.insert(mark.place).second,
                         (design.id + ": two marks are " + mark.label).c_str());
        }
    }
    /// Fails where anything finds a place by what it is called.
    void labels_are_only_for_people() {
        const auto job = test::demo_job();
        const auto book = load_steps(library());
        REQUIRE_OK(book);
        for (const auto& design : job.designs) {
            const auto prepared = prepare_design(job, design.id, library());
            REQUIRE_OK(prepared);
            auto renamed = *prepared;
            rename_labels(renamed, 7);
            const auto plan = make_plan(*prepared), other = make_plan(renamed);
            REQUIRE_OK(plan);
            REQUIRE_OK(other);
            QCOMPARE(other->marks.size(), plan->marks.size());
            for (std::size_t i = 0; i < plan->marks.size(); ++i) {
                const auto &a = plan->marks[i], &b = other->marks[i];
                QCOMPARE(id_of(a.place), id_of(b.place));
                QCOMPARE(b.from_datum_mm, a.from_datum_mm);
                QCOMPARE(b.from_neighbour_mm, a.from_neighbour_mm);
                QCOMPARE(b.verdicts.size(), a.verdicts.size());
                QVERIFY(b.blade_mm == a.blade_mm && b.side == a.side);
            }
            QCOMPARE(other->status, plan->status);
            QCOMPARE(other->parked.size(), plan->parked.size());
            for (std::size_t i = 0; i < plan->parked.size(); ++i) {
                QCOMPARE(other->parked[i].length_mm, plan->parked[i].length_mm);
                QCOMPARE(other->parked[i].side, plan->parked[i].side);
            }
            const auto sheet = make_sheet(*prepared, *plan, *book, library().connectors, {}),
                       same = make_sheet(renamed, *other, *book, library().connectors, {});
            REQUIRE_OK(sheet);
            REQUIRE_OK(same);
            QCOMPARE(same->steps.size(), sheet->steps.size());
            for (std::size_t i = 0; i < sheet->steps.size(); ++i) {
                QCOMPARE(same->steps[i].id, sheet->steps[i].id);
                QCOMPARE(same->steps[i].laid, sheet->steps[i].laid);
                QCOMPARE(same->steps[i].lines.size(), sheet->steps[i].lines.size());
                for (std::size_t k = 0; k < sheet->steps[i].lines.size(); ++k)
                    QCOMPARE(figures_of(same->steps[i].lines[k]), figures_of(sheet->steps[i].lines[k]));
            }
            const auto fit = check_fit({renamed.context(), renamed.built, renamed.limits, library().kits,
                                        library().connectors, *tape_of(design.numbers)});
            QCOMPARE(fit.checks.size(), prepared->fit.checks.size());
            for (std::size_t i = 0; i < fit.checks.size(); ++i) {
                QCOMPARE(fit.checks[i].value, prepared->fit.checks[i].value);
                QCOMPARE(fit.checks[i].uncertainty, prepared->fit.checks[i].uncertainty);
                QCOMPARE(fit.checks[i].suggestion, prepared->fit.checks[i].suggestion);
            }
            QCOMPARE(first_screen_edge_z(renamed.built), first_screen_edge_z(prepared->built));
        }
    }
    void a_datum_that_is_no_place_is_refused_by_name() {
        auto document = nlohmann::json::parse(write_job(test::demo_job()).dump());
        document["designs"][0]["work"] = {{"datum", "the lamp post"}};
        const auto refused = read_job(document, "job");
        QVERIFY(!refused);
        QVERIFY2(refused.error().message().find("the lamp post") != std::string::npos,
                 refused.error().message().c_str());
        document["designs"][0]["work"]["datum"] = "jacket cut";
        const auto read = read_job(document, "job");
        REQUIRE_OK(read);
        QVERIFY(read->designs[0].work.datum == place::jacket_cut);
    }
    void steps_name_only_places() {
        auto document = nlohmann::json::parse(*read_file(library().folder / "steps/steps.json"));
        for (auto& step : document["steps"])
            if (step.contains("lays")) step["lays"].push_back("lamp post");
        const auto refused = read_steps(document);
        QVERIFY(!refused && refused.error().message().find("lamp post") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(TestPlaces)
#include "test_places.moc"
