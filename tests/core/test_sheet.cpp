// The work sheet: called for by the design's facts, filled with its numbers, in an order that the rules hold.
#include "io/file.h"
#include "plan/sheet.h"
#include "plan/template.h"
#include "plan/whole_end.h"
#include "plan/work.h"
#include "support.h"
#include <numbers>
#include <random>

using namespace ng;

namespace {

const StepBook& book() {
    static const StepBook loaded = *load_steps(test::library());
    return loaded;
}

struct Planned {
    PreparedDesign prepared;
    CutPlan plan;
};

Planned planned(const Job& job, const std::string& design) {
    auto p = prepare_design(job, design, test::library());
    if (!p) qFatal("%s", p.error().message().c_str());
    auto plan = make_plan(*p);
    if (!plan) qFatal("%s", plan.error().message().c_str());
    return {std::move(*p), std::move(*plan)};
}

Result<WorkSheet> sheet_of(const Job& job, const std::string& design) {
    const auto p = planned(job, design);
    return make_sheet(p.prepared, p.plan, book(), test::library().connectors, job.step_texts);
}

const SheetStep* step(const WorkSheet& sheet, const std::string& id) {
    for (const auto& s : sheet.steps)
        if (s.step_id == id) return &s;
    return nullptr;
}

int place_of(const WorkSheet& sheet, const std::string& id) {
    for (std::size_t i = 0; i < sheet.steps.size(); ++i)
        if (sheet.steps[i].step_id == id) return static_cast<int>(i);
    return -1;
}

} // namespace

class TestSheet : public QObject {
    Q_OBJECT
  private slots:
    /// Every demo design, with every school, armoured and with three cores where its family takes them.
    void every_sheet_is_whole_and_in_order_data() {
        QTest::addColumn<QString>("design");
        for (const auto& design : test::demo_job().designs)
            QTest::newRow(design.id.c_str()) << QString::fromStdString(design.id);
    }
    void every_sheet_is_whole_and_in_order() {
        QFETCH(QString, design);
        const auto id = design.toStdString();
        std::vector<Job> jobs{test::demo_job()};
        for (const auto& school : work_schools())
            for (const auto& [option, words] : school.options) {
                jobs.push_back(test::demo_job());
                jobs.back().find_design(id)->work.schools[school.key] = option;
            }
        jobs.push_back(test::demo_job());
        for (auto& cable : jobs.back().cables) cable.armour = "round wire";
        for (const auto& screen : cable_words().metallic_screen) {
            jobs.push_back(test::demo_job());
            for (auto& cable : jobs.back().cables) cable.metallic_screen = screen;
        }
        jobs.push_back(test::demo_job());
        for (auto& cable : jobs.back().cables) {
            cable.cores = 3;
            cable.strippable_screen = !cable.strippable_screen;
        }
        int tried = 0;
        for (const auto& job : jobs) {
            if (!prepare_design(job, id, test::library())) continue; // this family takes no such cable
            const auto sheet = sheet_of(job, id);
            REQUIRE_OK(sheet);
            ++tried;
            QVERIFY2(sheet->broken_rules.empty(),
                     sheet->broken_rules.empty() ? "" : sheet->broken_rules[0].c_str());
            std::set<std::string> ids;
            int holds = 0;
            for (const auto& s : sheet->steps) {
                QVERIFY2(ids.insert(s.id).second, s.id.c_str());
                QVERIFY2(!s.lines.empty() && !s.title.empty() && !s.phase.empty(), s.id.c_str());
                std::string all = s.title;
                for (const auto& line : s.lines) all += line;
                if (s.hold) {
                    ++holds;
                    all += s.hold->check + s.hold->accept + s.hold->otherwise;
                    QVERIFY2(!s.hold->accept.empty(), s.id.c_str());
                }
                QVERIFY2(all.find('{') == std::string::npos && all.find("nan") == std::string::npos,
                         all.c_str());
            }
            QVERIFY(holds >= 8);
            for (const char* must : {"cable", "kit", "isolation", "jacket", "wipe", "inspect", "record"})
                QVERIFY2(step(*sheet, must), must);
            const auto p = planned(job, id);
            std::size_t placed = 0;
            for (const auto& part : p.prepared.built.placed) placed += !part.integral;
            QCOMPARE(static_cast<std::size_t>(
                         std::count_if(sheet->steps.begin(), sheet->steps.end(),
                                       [](const auto& s) { return s.step_id.starts_with("place"); })),
                     placed);
            if (!p.plan.parked.empty()) {
                const int park = std::max(place_of(*sheet, "park-jacket"), place_of(*sheet, "park-core"));
                const int connector = std::max(
                    {place_of(*sheet, "crimp"), place_of(*sheet, "shear"), place_of(*sheet, "solder")});
                QVERIFY(park >= 0 && connector > park);
            }
        }
        QVERIFY(tried > 15);
    }
    /// Thousands of sheets: every family, one core and three, every armour, schools at random. None breaks a
    /// rule, none covers what is not yet laid, and all that the section shows is laid by a step, once.
    void every_combination_keeps_the_order_data() {
        QTest::addColumn<QString>("design");
        for (const auto& design : test::demo_job().designs)
            QTest::newRow(design.id.c_str()) << QString::fromStdString(design.id);
    }
    void every_combination_keeps_the_order() {
        QFETCH(QString, design);
        const auto id = design.toStdString();
        std::mt19937 random(static_cast<unsigned>(std::hash<std::string>{}(id)));
        int tried = 0;
        for (const int cores : {1, 3})
            for (const auto& armour : cable_words().armour)
                for (int i = 0; i < 24; ++i) {
                    auto job = test::demo_job();
                    for (auto& cable : job.cables) {
                        cable.cores = cores;
                        cable.armour = armour;
                        cable.strippable_screen = random() % 2 == 0;
                        const auto& screens = cable_words().metallic_screen;
                        cable.metallic_screen = screens[random() % screens.size()];
                    }
                    for (const auto& school : work_schools())
                        job.find_design(id)->work.schools[school.key] =
                            school.options[random() % school.options.size()].first;
                    for (const auto& parameter : test::family(job.find_design(id)->family).parameters)
                        if (parameter.kind == ParameterKind::choice && random() % 4 == 0)
                            job.find_design(id)->choices[parameter.key] =
                                parameter.options[random() % parameter.options.size()].first;
                    if (!prepare_design(job, id, test::library())) continue;
                    const auto p = planned(job, id);
                    const auto sheet = make_sheet(p.prepared, p.plan, book(), test::library().connectors, {});
                    REQUIRE_OK(sheet);
                    ++tried;
                    QVERIFY2(sheet->broken_rules.empty(),
                             sheet->broken_rules.empty() ? "" : sheet->broken_rules[0].c_str());
                    std::map<PlaceId, int> times;
                    for (const auto& s : sheet->steps)
                        for (const auto& place : s.lays) ++times[place];
                    for (const auto& part : p.prepared.built.parts) {
                        const bool filling = part.hatch == "air" || part.label.empty();
                        if (is_cable_layer(part.place.kind) || filling) continue;
                        QVERIFY2(times[part.place] == 1, (name_of(part.place) + " is laid " +
                                                          std::to_string(times[part.place]) + " times")
                                                             .c_str());
                    }
                    for (const auto& hold : required_holds()) {
                        const auto* s = step(*sheet, hold);
                        QVERIFY2(s && s->hold, hold.c_str());
                    }
                }
        QVERIFY(tried >= 60);
    }
    void no_depth_length_or_order_can_harm() {
        // Two cables of unlike walls: each side gets its own blade, and none reaches through the least wall
        // that its layer may have (IEC 60502: 0.9 t - 0.1 mm, from memory).
        for (const auto& design : test::demo_job().designs) {
            auto job = test::demo_job();
            const auto* d = job.find_design(design.id);
            if (d->other_cable_id.empty() || d->other_cable_id == d->cable_id)
                for (auto& cable : job.cables)
                    if (cable.id == d->cable_id) {
                        job.cables.push_back(cable);
                        job.cables.back().id = "thinner";
                        job.cables.back().jacket_thickness_mm *= 0.7;
                        job.find_design(design.id)->other_cable_id = "thinner";
                        break;
                    }
            if (!prepare_design(job, design.id, test::library())) continue; // this family takes one cable
            const auto p = planned(job, design.id);
            const auto sheet = sheet_of(job, design.id);
            REQUIRE_OK(sheet);
            for (const auto side : {CableSide::a, CableSide::b}) {
                const auto least = [](double t) { return std::max(0.5 * t, 0.9 * t - 0.1); };
                const auto* jacket = p.plan.find(MarkKind::jacket_cut, side);
                const auto* insulation = p.plan.find(MarkKind::insulation_end, side);
                if (jacket)
                    QVERIFY(*jacket->blade_mm <
                            least(p.prepared.context().cable_of(side).jacket_thickness_mm));
                if (!insulation) continue;
                const double wall = p.prepared.context().dimensions_of(side).layer("insulation").thickness_mm;
                QVERIFY(*insulation->blade_mm < least(wall));
                // What is printed for this side is no deeper.
                const auto* bare = step(*sheet, "insulation");
                if (!bare) continue;
                const auto& line = bare->lines[0];
                const auto from = line.find("Blade set to ");
                const auto words = line.substr(from, line.find("no deeper") - from);
                const auto at = words.find(side == CableSide::a ? "side A " : "side B ");
                const double printed = std::stod(words.substr(at == std::string::npos ? 13 : at + 7));
                QVERIFY2(printed < least(wall) && printed <= *insulation->blade_mm + 1e-9, line.c_str());
            }
        }
        // The lug is sealed before anything covers it.
        const auto job = test::demo_job();
        for (const char* id : {"quay-mast", "berth-1", "berth-2", "gatehouse"}) {
            const auto sheet = sheet_of(job, id);
            REQUIRE_OK(sheet);
            const int sealed = place_of(*sheet, "lug-seal");
            QVERIFY(sealed > 0);
            for (int i = 0; i < sealed; ++i)
                QVERIFY2(!sheet->steps[i].step_id.starts_with("place"), sheet->steps[i].id.c_str());
        }
        // The saw leaves what the longest core needs.
        auto longer = test::demo_job();
        for (auto& cable : longer.cables) cable.cores = 3;
        longer.find_design("quay-mast")->work.numbers["core_2_longer_mm"] = 150;
        const auto three = sheet_of(longer, "quay-mast");
        REQUIRE_OK(three);
        const auto& saw = step(*three, "square-end")->lines[0];
        QVERIFY2(saw.find("150") != std::string::npos && saw.find("longest core") != std::string::npos,
                 saw.c_str());
        // No type test's level is given to the site.
        for (const auto& line : step(*three, "remove-earths")->lines)
            QVERIFY2(line.find("kV") == std::string::npos, line.c_str());
    }
    void every_job_has_its_hold_points_and_each_family_its_own() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto sheet = sheet_of(job, design.id);
            REQUIRE_OK(sheet);
            // Common practice, no source.
            for (const char* must : {"conditions", "isolation", "water-blocking", "tapes-off"})
                QVERIFY2(step(*sheet, must), (design.id + " " + must).c_str());
            QVERIFY(place_of(*sheet, "conditions") < place_of(*sheet, "square-end"));
            QVERIFY(place_of(*sheet, "tapes-off") < place_of(*sheet, "remove-earths"));
        }
        const auto has = [&](const char* id, const char* step_id) {
            const auto sheet = sheet_of(job, id);
            return sheet && step(*sheet, step_id);
        };
        QVERIFY(has("quay-mast", "palm") && !has("causeway", "palm"));
        QVERIFY(has("ring-switch", "bushing") && !has("quay-mast", "bushing"));
        const auto bus =
            sheet_of(job, "transformer-bus"); // trained to its own centre, whatever distances count from
        QVERIFY(step(*bus, "train")->lines[0].find("lug end") != std::string::npos);
        QVERIFY(has("breakwater", "centre") && !has("causeway", "centre"));
    }
    void the_picking_list_counts_for_every_core() {
        auto job = test::demo_job();
        const auto quantity = [&](const char* design, const std::string& item) -> std::string {
            const auto sheet = sheet_of(job, design);
            if (!sheet) return "refused";
            for (const auto& pick : sheet->picking)
                if (pick.item == item) return pick.quantity;
            return "";
        };
        QCOMPARE(quantity("quay-mast", "Sheds"), std::string("2"));
        QCOMPARE(quantity("quay-mast", "Breakout"), std::string());
        QCOMPARE(quantity("gatehouse", "Breakout"), std::string("1")); // three cores
        QCOMPARE(quantity("gatehouse", "Core tubes"), std::string("3"));
        QCOMPARE(quantity("old-quay-transition", "Oil-barrier tube"), std::string("3")); // to three cores
        for (auto& cable : job.cables) cable.cores = 3;
        QCOMPARE(quantity("quay-mast", "Sheds"), std::string("6"));
    }
    void hold_points_outlast_a_firms_own_words() {
        auto job = test::demo_job();
        job.step_texts["isolation"] = "Ring the control room.";
        const auto sheet = sheet_of(job, "quay-mast");
        REQUIRE_OK(sheet);
        const auto* safe = step(*sheet, "isolation");
        QVERIFY(safe && safe->own_words && safe->hold);
        for (const char* word : {"identified", "spiked", "isolated", "proved dead", "discharged"})
            QVERIFY2(safe->hold->check.find(word) != std::string::npos, word);
        QVERIFY(safe->hold->accept.find("earths stay on") != std::string::npos);
        QVERIFY(!safe->cautions.empty());
    }
    void numbers_of_the_sheet_are_those_of_the_plan() {
        const auto job = test::demo_job();
        const auto p = planned(job, "causeway");
        const auto sheet = sheet_of(job, "causeway");
        REQUIRE_OK(sheet);
        const auto* cut = step(*sheet, "screen-strip");
        QVERIFY(cut && cut->hold);
        const auto edge = both_units(p.plan.find(place::screen_edge.on(Side::a))->from_datum_mm);
        QVERIFY2(cut->lines[0].find(edge) != std::string::npos, cut->lines[0].c_str());
        QVERIFY(cut->lines[0].find("Blade set to 0.4 mm") != std::string::npos);
        QVERIFY(cut->hold->otherwise.find("cut back and start again") != std::string::npos);
        QVERIFY(cut->hold->accept.find("± 1 mm") != std::string::npos);
        const auto* jacket = step(*sheet, "jacket");
        QVERIFY(jacket->lines[0].find("side B " +
                                      both_units(p.plan.find(place::jacket_cut.on(Side::b))->z_mm) +
                                      " from the joint centre") != std::string::npos);
        // Both units say the same: 25.4 mm to the inch.
        // As hands measure: halves of a millimetre, sixteenths of an inch.
        QCOMPARE(both_units(254), std::string("254 mm / 10 in"));
        QCOMPARE(both_units(189.5), std::string("189.5 mm / 7 7/16 in"));
        QCOMPARE(both_units(10.3), std::string("10.5 mm / 3/8 in"));
        QCOMPARE(both_units(-38.1), std::string("-38 mm / -1 1/2 in"));
        QCOMPARE(both_units(0), std::string("0 mm / 0 in"));
        QCOMPARE(both_units(0.3), std::string("0.3 mm / 0.012 in")); // set on a tool
        for (double mm = 10; mm < 900; mm += 1.37) { // what is read off again is within the tolerance of 1 mm
            const auto words = inch_fraction(mm);
            double inches = 0;
            int whole = 0, part = 0, of = 1;
            const bool mixed = std::sscanf(words.c_str(), "%d %d/%d in", &whole, &part, &of) == 3;
            if (!mixed) {
                whole = 0;
                const bool fraction = std::sscanf(words.c_str(), "%d/%d in", &part, &of) == 2;
                if (!fraction) whole = std::stoi(words), part = 0;
            }
            inches = whole + double(part) / of;
            QVERIFY2(std::abs(inches * 25.4 - mm) <= 25.4 / 32 + 1e-9, words.c_str());
        }
        for (const auto& item : {"Stress tube", "Insulating tube", "Dual-wall tube", "Re-jacketing sleeve"})
            QVERIFY2(std::any_of(sheet->picking.begin(), sheet->picking.end(),
                                 [&](const auto& pick) { return pick.item == item; }),
                     item);
    }
    void every_metallic_screen_is_taken_off_its_own_way() {
        const std::map<std::string, std::string> ways{{"wires", "wires-back"},
                                                      {"tape", "tape-torn"},
                                                      {"straps", "straps-back"},
                                                      {"corrugated tape", "corrugated-off"},
                                                      {"lead", "lead-off"}};
        for (const auto& screen : cable_words().metallic_screen) {
            auto job = test::demo_job();
            for (auto& cable : job.cables) cable.metallic_screen = screen;
            const auto sheet = sheet_of(job, "quay-mast");
            REQUIRE_OK(sheet);
            for (const auto& [of, id] : ways)
                QVERIFY2((step(*sheet, id) != nullptr) == (of == screen), (screen + ": " + id).c_str());
            const auto p = planned(job, "quay-mast");
            const auto* cut = p.plan.find(MarkKind::metallic_cut);
            QVERIFY(cut);
            if (screen == "lead") // half through: the rest is peeled
                // Half of the least wall that a lead sheath of this thickness may have.
                QCOMPARE(*cut->blade_mm,
                         (0.9 * p.prepared.dimensions.layer("metallic screen").thickness_mm - 0.1) / 2);
        }
    }
    void a_wrong_order_is_named() {
        auto sheet = sheet_of(test::demo_job(), "causeway");
        REQUIRE_OK(sheet);
        auto steps = sheet->steps;
        std::stable_partition(steps.begin(), steps.end(), [](const auto& s) { return s.step_id == "crimp"; });
        const auto broken = broken_rules(steps, book().rules);
        QVERIFY(std::any_of(broken.begin(), broken.end(),
                            [](const auto& b) { return b.find("parked") != std::string::npos; }));
        QVERIFY(std::any_of(broken.begin(), broken.end(),
                            [](const auto& b) { return b.find("bared") != std::string::npos; }));
        // Sealant before the braid and after it.
        auto pole = sheet_of(test::demo_job(), "quay-mast");
        REQUIRE_OK(pole);
        steps = pole->steps;
        const auto at = [&](const char* id) {
            return std::find_if(steps.begin(), steps.end(), [&](const auto& s) { return s.step_id == id; });
        };
        QVERIFY(at("seal-under") < at("earth-spring") && at("earth-spring") < at("seal-over"));
        std::iter_swap(at("seal-under"), at("seal-over"));
        QCOMPARE(broken_rules(steps, book().rules).size(), std::size_t(2));
    }
    void setting_and_cooling_stand_before_the_test() {
        auto job = test::demo_job();
        const auto sheet = sheet_of(job, "causeway");
        QVERIFY(place_of(*sheet, "cool") > place_of(*sheet, "place-cover"));
        QVERIFY(place_of(*sheet, "remove-earths") > place_of(*sheet, "cool"));
        QCOMPARE(step(*sheet, "cool")->wait_s, 1800.0);
        job.find_design("cellar")->choices["protection"] = "resin";
        const auto resin = sheet_of(job, "cellar");
        QCOMPARE(step(*resin, "resin-wait")->wait_s, 7200.0); // 2 h (common practice, no source)
        QVERIFY(place_of(*resin, "remove-earths") > place_of(*resin, "resin-wait"));
        QVERIFY(!step(*sheet, "resin"));
    }
    // Common practice, no source: figures that stand in the words of the steps.
    void the_words_carry_the_figures_of_the_trade() {
        auto job = test::demo_job();
        const auto words = [&](const char* design, const char* id) {
            const auto sheet = sheet_of(job, design);
            const auto* s = sheet ? step(*sheet, id) : nullptr;
            std::string all;
            if (s)
                for (const auto& line : s->lines) all += line + " ";
            return all;
        };
        QVERIFY(words("gatehouse", "breakout").find("20 to 30 mm over its finger") != std::string::npos);
        QVERIFY(words("quay-mast", "abrade").find("240 to 400") != std::string::npos);
        QVERIFY(words("quay-mast", "screen-strip").find("Three or four length scores") != std::string::npos);
        job.find_design("causeway")->work.schools["outer_cover"] = "wrap-around";
        QVERIFY(words("causeway", "outer-wrap").find("6 to 13 mm past the sleeve") !=
                std::string::npos); // 1/4 to 1/2 in
        QVERIFY(words("causeway", "outer-wrap").find("5 s for each 300 mm") != std::string::npos); // 5 s/ft
        job.find_design("cellar")->choices["protection"] = "resin";
        QVERIFY(words("cellar", "resin").find("knead 30 to 40 times, 2 to 3 min") != std::string::npos);
        QVERIFY(words("cellar", "pencil").find("48 mm / 1 7/8 in") != std::string::npos); // 45 to 50 mm
        QVERIFY(words("cellar", "pencil").find("leave 5 mm") != std::string::npos);
        QVERIFY(words("quay-mast", "wipe").find("from the conductor end towards the screen") !=
                std::string::npos);
    }
    void stress_control_comes_before_what_goes_over_it() {
        const auto job = test::demo_job();
        for (const char* id :
             {"causeway", "pier-branch", "old-quay-transition", "quay-mast", "slipway-end"}) {
            const auto sheet = sheet_of(job, id);
            REQUIRE_OK(sheet);
            int last_control = -1, first_cover = 1000;
            for (std::size_t i = 0; i < sheet->steps.size(); ++i) {
                if (sheet->steps[i].step_id == "place-control") last_control = static_cast<int>(i);
                if (sheet->steps[i].step_id == "place-cover")
                    first_cover = std::min(first_cover, static_cast<int>(i));
            }
            QVERIFY2(last_control >= 0 && first_cover < 1000 && last_control < first_cover, id);
        }
        const auto branch = sheet_of(job, "pier-branch");
        QVERIFY(place_of(*branch, "pack-voids") > place_of(*branch, "place-control"));
        QVERIFY(place_of(*branch, "pack-voids") < place_of(*branch, "place-cover"));
        QVERIFY(place_of(*branch, "two-cores") >= 0 &&
                place_of(*branch, "two-cores") < place_of(*branch, "square-end"));
        QVERIFY(!step(*sheet_of(job, "causeway"), "two-cores"));
        // Sheds of a moulded body are part of it; those of a shrunk sleeve are put on.
        QVERIFY(!step(*sheet_of(job, "berth-1"), "sheds") && step(*sheet_of(job, "quay-mast"), "sheds"));
        const auto paper = sheet_of(job, "old-quay-transition");
        QVERIFY(step(*paper, "lead") && step(*paper, "belted-papers") && !step(*paper, "papers"));
        QVERIFY(step(*paper, "belted-papers")->hold->otherwise.find("dry paper") != std::string::npos);
        QVERIFY(!step(*branch, "papers"));
        // Its cores have no screen to mark or cut; they are labelled, spread and cut though side A has one
        // core.
        const auto* core = step(*paper, "mark-core");
        QVERIFY(core && core->lines[0].find("both sides") == std::string::npos);
        QCOMPARE(core->title, std::string("Mark the core, side A"));
        QCOMPARE(step(*paper, "phases-marked")->title, std::string("Mark the phases, side B"));
        QVERIFY(step(*paper, "cores-cut")->lines[0].find("phase 3") != std::string::npos);
        auto shielded_job = job;
        shielded_job.find_design("old-quay-transition")->choices["paper_type"] = "shielded";
        const auto shielded = sheet_of(shielded_job, "old-quay-transition");
        QVERIFY(step(*shielded, "papers") && !step(*shielded, "belted-papers"));
        const auto& both_edges = step(*shielded, "mark-core")->lines[0];
        QVERIFY2(both_edges.find("side B") != std::string::npos ||
                     both_edges.find("both sides") != std::string::npos,
                 both_edges.c_str());
        // The sides differ: each step speaks of its own.
        QCOMPARE(step(*paper, "abrade")->title, std::string("Abrade the insulation, side A"));
        QCOMPARE(step(*paper, "lead")->title, std::string("Remove the lead sheath, side B"));
        QVERIFY(!step(*paper, "screen-shave")); // paper has no screen to be shaved
        auto mixed = job;
        for (auto& cable : mixed.cables)
            if (cable.id == "feeder-b") cable.strippable_screen = false;
        const auto both = sheet_of(mixed, "causeway");
        REQUIRE_OK(both);
        const auto p = planned(mixed, "causeway");
        QCOMPARE(step(*both, "screen-strip")->title,
                 std::string("Ring cut and peel the insulation screen, side A"));
        QCOMPARE(step(*both, "screen-shave")->title, std::string("Shave off the bonded screen, side B"));
        QVERIFY(step(*both, "screen-shave")
                    ->lines[0]
                    .find(both_units(p.plan.find(place::screen_edge.on(Side::b))->from_datum_mm)) !=
                std::string::npos);
        QVERIFY(step(*both, "screen-shave")->lines[0].find("side A") == std::string::npos);
    }
    void the_last_pictures_show_everything_that_is_laid() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto p = planned(job, design.id);
            const auto sheet = make_sheet(p.prepared, p.plan, book(), test::library().connectors, {});
            REQUIRE_OK(sheet);
            const auto& laid = sheet->steps.back().laid;
            for (const auto& part : p.prepared.built.parts) {
                const bool cable = is_cable_layer(part.place.kind);
                const bool filling = part.hatch == "air" || part.hatch == "sealant" || part.label.empty();
                if (cable || filling) continue;
                QVERIFY2(std::find(laid.begin(), laid.end(), part.place) != laid.end(),
                         (design.id + ": nobody lays “" + name_of(part.place) + "”").c_str());
            }
        }
    }
    void schools_change_the_words() {
        auto job = test::demo_job();
        auto& schools = job.find_design("causeway")->work.schools;
        schools["connector"] = "shear bolt";
        schools["shear_bolts"] = "inner first";
        auto sheet = sheet_of(job, "causeway");
        QVERIFY(!step(*sheet, "crimp"));
        QVERIFY(step(*sheet, "shear")->lines[0].find("the inner ones first") != std::string::npos);
        schools = {{"outer_cover", "wrap-around"}};
        sheet = sheet_of(job, "causeway");
        QVERIFY(step(*sheet, "outer-wrap") && !step(*sheet, "outer-sleeve"));
        for (const auto& part : planned(job, "causeway").plan.parked)
            QVERIFY(part.part != "re-jacketing sleeve");
    }
    void schools_change_the_order() {
        auto job = test::demo_job();
        const auto before = [&](const char* design, const char* first, const char* then) {
            const auto sheet = sheet_of(job, design);
            return sheet && sheet->broken_rules.empty() && place_of(*sheet, first) >= 0 &&
                   place_of(*sheet, first) < place_of(*sheet, then);
        };
        // A slip-on connector is fitted first, and the edge measured from its end; a joint's is not.
        QVERIFY(before("ring-switch", "crimp", "mark-from-connector"));
        QVERIFY(before("ring-switch", "mark-from-connector", "screen-strip"));
        QVERIFY(before("ring-switch", "screen-end", "insulation"));
        const auto slip_on = sheet_of(job, "ring-switch"); // one way to measure the edge, and no other
        QVERIFY(!step(*slip_on, "mark-core"));
        QVERIFY(step(*slip_on, "screen-strip")->lines[0].find("behind the connector's end") !=
                std::string::npos);
        QVERIFY(before("causeway", "screen-strip", "crimp"));
        job.find_design("causeway")->work.schools["connector_when"] = "before screen";
        QVERIFY(before("causeway", "crimp", "screen-strip") && before("causeway", "park-jacket", "crimp"));
        job.find_design("ring-switch")->work.schools["connector_when"] = "after screen";
        QVERIFY(before("ring-switch", "screen-strip", "crimp"));
        // A body that lies over the lug's neck goes on after it whatever the school says; the sheet says so.
        job.find_design("berth-1")->work.schools["body_when"] = "before lug";
        QVERIFY(before("berth-1", "crimp", "place-control") || before("berth-1", "crimp", "place-cover"));
        const auto sheet = sheet_of(job, "berth-1");
        QVERIFY(std::any_of(sheet->cautions.begin(), sheet->cautions.end(), [](const auto& caution) {
            return caution.find("lies over the neck of the lug") != std::string::npos;
        }));
        // The paper side: barrier, conductive tube, mastic over its end, each on what lies beneath it.
        const auto paper = sheet_of(job, "old-quay-transition");
        REQUIRE_OK(paper);
        const auto laid_at = [&](const PlaceId& place) {
            for (std::size_t i = 0; i < paper->steps.size(); ++i)
                if (const auto& lays = paper->steps[i].lays;
                    std::find(lays.begin(), lays.end(), place) != lays.end())
                    return static_cast<int>(i);
            return -1;
        };
        const int filled = laid_at(place::oil_mastic), barrier = laid_at(place::oil_barrier),
                  tube = laid_at(place::screen_tube), mastic = laid_at(place::relief_mastic.on(Side::b));
        QVERIFY2(filled >= 0 && filled < barrier && barrier < tube && tube < mastic,
                 qPrintable(QString("%1 %2 %3 %4").arg(filled).arg(barrier).arg(tube).arg(mastic)));
    }
    void what_is_covered_before_it_is_laid_is_named() {
        auto sheet = sheet_of(test::demo_job(), "causeway");
        REQUIRE_OK(sheet);
        auto steps = sheet->steps;
        const auto mastic =
            std::find_if(steps.begin(), steps.end(), [](const auto& s) { return s.step_id == "mastic"; });
        QVERIFY(mastic != steps.end());
        std::rotate(mastic, mastic + 1, steps.end()); // last of all
        const auto broken = broken_rules(steps, {});
        QVERIFY(!broken.empty());
        QVERIFY2(broken.front().find("relief mastic") != std::string::npos, broken.front().c_str());
    }
    void lengths_allow_for_what_shrinking_takes() {
        auto job = test::demo_job();
        const auto p = planned(job, "causeway");
        // Tubes lose 5 to 10 % of their length (common practice, no source).
        for (const auto& parked : p.plan.parked)
            for (const auto& part : p.prepared.built.placed)
                if (part.place == parked.place && part.kind == FitItem::Kind::shrink)
                    COMPARE_WITHIN(parked.length_mm, (part.z1_mm - part.z0_mm) / 0.9, 1e-9);
        job.find_design("causeway")->work.numbers["shrink_loss_percent"] = 0;
        QVERIFY(planned(job, "causeway").plan.parked.front().length_mm < p.plan.parked.front().length_mm);
        job.find_design("causeway")->work.numbers["shrink_loss_percent"] = 40;
        const auto refused = make_plan(*prepare_design(job, "causeway", test::library()));
        QVERIFY(!refused && refused.error().message().find("30 %") != std::string::npos);
    }
    void cores_of_unlike_length_have_their_own_distances() {
        auto job = test::demo_job();
        auto& work = job.find_design("gatehouse")->work;
        work.numbers["core_1_longer_mm"] = 0;
        work.numbers["core_2_longer_mm"] = 60;
        work.numbers["core_3_longer_mm"] = 120;
        const auto p = planned(job, "gatehouse");
        const auto* edge = p.plan.find(MarkKind::screen_edge);
        QCOMPARE(p.plan.added_by_core_mm(*edge), (std::vector<double>{0, 60, 120}));
        QVERIFY(p.plan.added_by_core_mm(*p.plan.find(MarkKind::crotch)).empty());
        const auto sheet = sheet_of(job, "gatehouse");
        REQUIRE_OK(sheet);
        const auto& line = step(*sheet, "screen-strip")->lines[0];
        for (const double more : {0.0, 60.0, 120.0})
            QVERIFY2(line.find(both_units(edge->from_datum_mm + more)) != std::string::npos, line.c_str());
        // Drawn so: the same part lies further out on the longer cores.
        const auto whole = whole_end(p.prepared, p.plan, finished(p.prepared, p.plan));
        std::vector<double> ends;
        for (const auto& region : whole.picture.section.regions)
            if (region.name == "stress tube") {
                double z = -1e9;
                for (const auto& s : region.outline.steps) z = std::max(z, s.to.z);
                ends.push_back(z);
            }
        std::sort(ends.begin(), ends.end());
        QCOMPARE(ends.size(), std::size_t(6)); // above and below the axis of each
        COMPARE_WITHIN(ends[2] - ends[0], 60.0, 1e-9);
        COMPARE_WITHIN(ends[4] - ends[0], 120.0, 1e-9);
    }
    /// Of a staggered joint: each core's connector where the plan says, both trunks at the same distance for
    /// all.
    void a_staggered_joint_is_drawn_staggered() {
        auto job = new_job();
        job.cables[0].cores = 3;
        auto& design = job.designs[0];
        design.family = "heat_shrink_joint";
        design.duty.standard = "ieee404";
        const auto plain = planned(job, design.id);
        design.work.numbers = {{"core_2_longer_mm", 60.0}, {"core_3_longer_mm", 120.0}};
        const auto p = planned(job, design.id);
        const auto sheet = sheet_of(job, design.id);
        REQUIRE_OK(sheet);
        QVERIFY(sheet->broken_rules.empty());
        const auto& words = step(*sheet, "stagger")->lines;
        QVERIFY2(words[0].find("phase 3 " + both_units(120)) != std::string::npos, words[0].c_str());
        QVERIFY2(words[1].find(both_units(120)) != std::string::npos, words[1].c_str());
        auto together = job;
        together.designs[0].work.numbers.clear();
        const auto without = sheet_of(together, design.id);
        REQUIRE_OK(without);
        QVERIFY(!step(*without, "stagger"));
        // Onto three cables of one core each: no crotch of B, and no such step.
        auto apart = job;
        apart.cables.push_back(apart.cables[0]);
        apart.cables[1].id = apart.cables[1].title = "single";
        apart.cables[1].cores = 1;
        apart.designs[0].other_cable_id = "single";
        const auto onto_singles = sheet_of(apart, design.id);
        REQUIRE_OK(onto_singles);
        QVERIFY(!step(*onto_singles, "stagger"));
        const auto middles = [](const WholeEnd& whole, const std::string& name) {
            std::vector<double> out;
            for (const auto& region : whole.picture.section.regions)
                if (region.name == name) {
                    double least = 1e9, most = -1e9;
                    for (const auto& s : region.outline.steps)
                        least = std::min(least, s.to.z), most = std::max(most, s.to.z);
                    out.push_back((least + most) / 2);
                }
            std::sort(out.begin(), out.end());
            return out;
        };
        const auto whole = whole_end(p.prepared, p.plan, finished(p.prepared, p.plan)),
                   straight = whole_end(plain.prepared, plain.plan, finished(plain.prepared, plain.plan));
        const auto connectors = middles(whole, "connector"), side_by_side = middles(straight, "connector");
        QCOMPARE(connectors.size(), std::size_t{6}); // above and below the axis of each
        COMPARE_WITHIN(side_by_side[5] - side_by_side[0] + 1, 1, 1e-9);
        COMPARE_WITHIN(connectors[2] - connectors[0], 60.0, 1e-9);
        COMPARE_WITHIN(connectors[4] - connectors[0], 120.0, 1e-9);
        const auto jacket_of_b = [](const WholeEnd& w) {
            double z = 1e9;
            for (const auto& region : w.picture.section.regions)
                if (region.name == "jacket")
                    for (const auto& s : region.outline.steps)
                        if (s.to.z > 0) z = std::min(z, s.to.z);
            return z;
        };
        COMPARE_WITHIN(jacket_of_b(whole) - jacket_of_b(straight), 120.0, 1e-9);
        QCOMPARE(whole.side_b_moved_mm, 120.0);
    }
    void the_whole_end_is_cut_and_laid_step_by_step() {
        auto job = test::demo_job();
        for (auto& cable : job.cables)
            if (cable.cores == 3) cable.armour = "round wire";
        for (const char* key : {"core_1_longer_mm", "core_2_longer_mm", "core_3_longer_mm"})
            job.find_design("gatehouse")->work.numbers.erase(key);
        const auto p = planned(job, "gatehouse");
        QVERIFY(has_whole_end(p.prepared) && !has_whole_end(planned(test::demo_job(), "quay-mast").prepared));
        const auto sheet = sheet_of(job, "gatehouse");
        REQUIRE_OK(sheet);
        const auto reach = [&](const SheetStep& s, const PlaceId& place) { // towards the cable end
            double z = -1e9;
            for (const auto& region : whole_end(p.prepared, p.plan, s).picture.section.regions)
                if (region.name == name_of(place))
                    for (const auto& one : region.outline.steps) z = std::max(z, one.to.z);
            return z;
        };
        const auto z_of = [&](MarkKind kind) { return p.plan.find(kind)->z_mm; };
        const double end = z_of(MarkKind::cable_end);
        QCOMPARE(reach(*step(*sheet, "kit"), place::jacket), end);
        QCOMPARE(reach(*step(*sheet, "jacket"), place::jacket), z_of(MarkKind::jacket_cut));
        QCOMPARE(reach(*step(*sheet, "jacket"), place::armour), end);
        QCOMPARE(reach(*step(*sheet, "armour"), place::armour), z_of(MarkKind::armour_cut));
        QCOMPARE(reach(*step(*sheet, "bedding"), place::bedding), z_of(MarkKind::bedding_cut));
        QVERIFY(reach(*step(*sheet, "bedding"), place::breakout) < -1e8);
        QVERIFY(reach(*step(*sheet, "breakout"), place::breakout) > z_of(MarkKind::crotch));
        COMPARE_WITHIN(reach(*step(*sheet, "breakout"), place::core_tube), z_of(MarkKind::core_tube_end),
                       1e-9);
        // Three equal circles in a circle (geometry), then bedding, armour and jacket.
        const auto over = overall_dimensions(p.prepared.cable, p.prepared.dimensions);
        double widest = 0;
        for (const auto& region : whole_end(p.prepared, p.plan, cut_back(p.plan)).picture.section.regions)
            if (region.name == name_of(place::jacket))
                for (const auto& one : region.outline.steps) widest = std::max(widest, one.to.r);
        COMPARE_WITHIN(2 * widest, over.jacket_mm, 1e-9);
    }
    void cores_part_outside_the_lead() {
        auto job = test::demo_job();
        for (const char* armour : {"none", "round wire"})
            for (const char* type : {"belted", "shielded"}) {
                for (auto& cable : job.cables)
                    if (cable.insulation_material == "paper") cable.armour = armour;
                job.find_design("old-quay-transition")->choices["paper_type"] = type;
                const auto p = planned(job, "old-quay-transition");
                const auto z = [&](MarkKind kind) { return p.plan.find(kind, CableSide::b)->z_mm; };
                QVERIFY2(z(MarkKind::crotch) <= z(MarkKind::metallic_cut), type); // its end lies at -z
                QVERIFY(z(MarkKind::screen_edge) <= z(MarkKind::crotch));
                QVERIFY(z(MarkKind::metallic_cut) <= z(MarkKind::jacket_cut));
                QVERIFY2(p.plan.status != Status::falls_short, type);
            }
    }
    void long_blanks_of_a_jacket_are_broken() {
        const auto p = planned(test::demo_job(), "gatehouse");
        const auto whole = template_strips(p.plan, p.prepared), broken = broken_strips(whole);
        QCOMPARE(broken.size(), whole.size());
        int breaks = 0;
        for (std::size_t i = 0; i < whole.size(); ++i) {
            double left_out = 0;
            for (const auto& gap : broken[i].breaks) {
                ++breaks;
                left_out += gap.left_out_mm;
                QCOMPARE(std::fmod(gap.left_out_mm, 10), 0.0);
                for (const auto& line : broken[i].lines) // no mark near the break
                    QVERIFY(std::abs(line.along_mm - gap.along_mm) > 20);
            }
            QVERIFY(broken[i].breaks.empty() || broken[i].on_jacket);
            COMPARE_WITHIN(whole[i].length_mm - broken[i].length_mm, left_out, 1e-9);
            for (std::size_t k = 0; k < whole[i].lines.size(); ++k) {
                QCOMPARE(broken[i].lines[k].label, whole[i].lines[k].label); // distances stay the true ones
                double before = 0;
                for (const auto& gap : broken[i].breaks)
                    if (gap.along_mm < broken[i].lines[k].along_mm) before += gap.left_out_mm;
                COMPARE_WITHIN(whole[i].lines[k].along_mm - broken[i].lines[k].along_mm, before, 1e-9);
            }
        }
        QVERIFY(breaks >= 1);
        QVERIFY(tile(broken, papers()[0]).size() < tile(whole, papers()[0]).size());
    }
    void a_book_without_its_safety_is_refused() {
        const auto text = *read_file(std::string(NEEDLEGAUGE_DATA_DIR) + "/steps/steps.json");
        for (const auto& id : required_holds()) {
            auto bad = nlohmann::json::parse(text);
            for (auto& s : bad["steps"])
                if (s["id"] == id) s.erase("hold");
            const auto refused = read_steps(bad);
            QVERIFY2(!refused && refused.error().message().find(id) != std::string::npos, id.c_str());
        }
    }
    void a_firm_has_its_own_words() {
        auto job = test::demo_job();
        job.step_texts["wipe"] = "Three wipes, from {marks:insulation_end} to the screen.";
        auto sheet = sheet_of(job, "quay-mast");
        REQUIRE_OK(sheet);
        QVERIFY(step(*sheet, "wipe")->own_words);
        QCOMPARE(step(*sheet, "wipe")->lines.size(), std::size_t(1));
        QVERIFY(step(*sheet, "wipe")->lines[0].starts_with("Three wipes, from "));
        // Whatever stands in braces is known or refused by the step: names of numbers, of choices, of
        // schools.
        for (const char* odd : {"{work:outer_lap}", "{work:}", "{choice:jacket_cut_mm}", "{choice:}",
                                "{school:x}", "{number:sleeve_conduction}", "{value:tube_conduction}",
                                "{derived:x}", "{marks:}", "{reference:x}", "{part:x}", "{thickness:x}",
                                "{diameter:x}", "{p:tube_conduction}", "{{}", "{", "{:}", "{parked:x}"}) {
            job.step_texts["wipe"] = std::string("See ") + odd + ".";
            const auto refused = sheet_of(job, "causeway");
            QVERIFY2(refused || refused.error().item == "step wipe", odd);
        }
        for (const char* odd : {"{work:outer_lap}", "{choice:a_jacket_cut_mm}", "{thickness:x}",
                                "{diameter:x}", "{p:tube_conduction}"}) {
            job.step_texts["wipe"] = std::string("See ") + odd + ".";
            const auto refused = sheet_of(job, "causeway");
            QVERIFY2(!refused && refused.error().problem.find("has no value") != std::string::npos, odd);
        }
        job.step_texts["wipe"] = "See {nonsense}.";
        const auto refused = sheet_of(job, "quay-mast");
        QVERIFY(!refused);
        QVERIFY(refused.error().message().find("step wipe") != std::string::npos);
        QVERIFY(refused.error().message().find("nonsense") != std::string::npos);
    }
    void pictures_show_what_stands_so_far() {
        const auto job = test::demo_job();
        const auto p = planned(job, "quay-mast");
        const auto sheet = sheet_of(job, "quay-mast");
        const auto end_of = [&](const char* id, const char* layer) {
            const auto picture = stage_picture(p.prepared, p.plan, *step(*sheet, id));
            double z = -1e9;
            for (const auto& region : picture.section.regions)
                if (region.name == layer)
                    for (const auto& s : region.outline.steps) z = std::max(z, s.to.z);
            return z;
        };
        const double end = p.plan.find(MarkKind::cable_end)->z_mm;
        QCOMPARE(end_of("kit", "jacket"), end);
        QCOMPARE(end_of("jacket", "jacket"), p.plan.find(MarkKind::jacket_cut)->z_mm);
        QCOMPARE(end_of("jacket", "insulation screen"), end);
        QCOMPARE(end_of("screen-strip", "insulation screen"), p.plan.find(MarkKind::screen_edge)->z_mm);
        QCOMPARE(end_of("insulation", "insulation"), p.plan.find(MarkKind::insulation_end)->z_mm);
        const auto last = stage_picture(p.prepared, p.plan, sheet->steps.back());
        for (const char* name : {"stress tube", "sleeve", "relief mastic"})
            QVERIFY2(std::any_of(last.section.regions.begin(), last.section.regions.end(),
                                 [&](const auto& region) { return region.name == name; }),
                     name);
    }
    void broken_books_are_refused_by_item() {
        const auto text = *read_file(std::string(NEEDLEGAUGE_DATA_DIR) + "/steps/steps.json");
        const auto good = nlohmann::json::parse(text);
        REQUIRE_OK(read_steps(good));
        const auto message = [](const nlohmann::json& document) {
            const auto r = read_steps(document);
            return r ? std::string() : r.error().message();
        };
        auto bad = good;
        bad["steps"][3]["phase"] = "lunch";
        QVERIFY(message(bad).find("lunch") != std::string::npos);
        bad = good;
        std::swap(bad["steps"][0], bad["steps"][20]);
        QVERIFY(message(bad).find("later phase") != std::string::npos);
        bad = good;
        bad["steps"][1]["id"] = bad["steps"][0]["id"];
        QVERIFY(message(bad).find("twice") != std::string::npos);
        bad = good;
        bad["rules"].push_back({"dance", "#cut", "why not"});
        QVERIFY(message(bad).find("dance") != std::string::npos);
        bad = good;
        bad["steps"][12]["cuts"] = {"hair"};
        QVERIFY(message(bad).find("hair") != std::string::npos);
        bad = good;
        bad["steps"][0]["hold"].erase("accept");
        QVERIFY(message(bad).find("accept") != std::string::npos);
    }
    void template_strips_go_once_round_and_tile_with_overlap() {
        const auto job = test::demo_job();
        for (const auto& design : job.designs) {
            const auto p = planned(job, design.id);
            const auto strips = template_strips(p.plan, p.prepared);
            QVERIFY2(strips.size() >= 2, design.id.c_str());
            for (const auto& strip : strips) {
                QCOMPARE(strip.wrap_mm, std::numbers::pi * strip.diameter_mm);
                QVERIFY(strip.lines.back().along_mm < strip.length_mm);
            }
            for (const auto& paper : papers())
                for (std::size_t i = 0; i < strips.size(); ++i) {
                    double reached = 0, reached_across = 0;
                    for (const auto& t : tile(strips, paper)) {
                        if (t.strip != i) continue;
                        QVERIFY(t.to_mm - t.from_mm <= paper.width_mm - 2 * template_margin_mm + 1e-9);
                        QVERIFY(t.across_to_mm - t.across_from_mm <=
                                paper.height_mm - 2 * template_margin_mm - template_header_mm + 1e-9);
                        if (t.from_mm > 0)
                            QVERIFY(t.from_mm <= reached - template_overlap_mm + 1e-9 ||
                                    t.across_from_mm > 0);
                        reached = std::max(reached, t.to_mm);
                        reached_across = std::max(reached_across, t.across_to_mm);
                    }
                    QCOMPARE(reached, strips[i].length_mm);
                    QCOMPARE(reached_across, strips[i].wrap_mm);
                }
        }
        // The screen edge stands on the core's strip as far from the cable end as in the plan.
        const auto p = planned(job, "quay-mast");
        const auto strips = template_strips(p.plan, p.prepared);
        const auto* edge = p.plan.find(place::screen_edge);
        QVERIFY(std::any_of(strips[1].lines.begin(), strips[1].lines.end(), [&](const auto& line) {
            return line.cut && std::abs(line.along_mm - (p.prepared.built.datum_z_mm - edge->z_mm)) < 1e-9;
        }));
    }
};

QTEST_APPLESS_MAIN(TestSheet)
#include "test_sheet.moc"
