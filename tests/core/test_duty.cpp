// Standards packs, overrides, and the arithmetic behind their levels.
#include "closedform/air.h"
#include "support.h"

using namespace ng;
using nlohmann::json;

namespace {

const StandardsPack& pack(const std::string& id) {
    for (const auto& p : test::library().standards)
        if (p.id == id) return p;
    throw std::runtime_error("no pack " + id);
}

double level(const std::string& id, double class_kV, const std::string& name) {
    return pack(id).find(class_kV)->levels.at(name).value;
}

json as_json(const std::string& id) {
    return json::parse(write_standards_pack(pack(id)).dump());
}

} // namespace

class TestDuty : public QObject {
    Q_OBJECT
  private slots:
    void every_pack_names_edition_scope_and_kinds() {
        for (const char* id : {"ieee48", "ieee404", "iec60502-4", "ieee386"}) {
            const auto& p = pack(id);
            QVERIFY(!p.edition.empty() && !p.scope.empty() && p.classes.size() >= 3);
            const auto has = [&](TestKind kind) {
                return std::any_of(p.specs.begin(), p.specs.end(),
                                   [&](const auto& s) { return s.kind == kind; });
            };
            QVERIFY(has(TestKind::extinction) && has(TestKind::ac_minutes) && has(TestKind::dc) &&
                    has(TestKind::impulse));
            for (const auto& row : p.classes)
                for (const auto& [name, value] : row.levels) QVERIFY2(!value.verified, name.c_str());
        }
        QVERIFY(!pack("ieee386").in_scope);
        QCOMPARE(pack("ieee48").pd_limit_pC, 5.0);
        QCOMPARE(pack("iec60502-4").pd_limit_pC, 10.0);
    }
    void multiples_of_u0_hold_in_the_joint_table() {
        // IEEE 404 (from memory): extinction 1.5 U0, 5 min AC 4.5 U0, ageing 3 U0 (46 kV: 2.5), rounded.
        for (const auto& row : pack("ieee404").classes) {
            const double u0 = row.class_kV / std::sqrt(3.0);
            COMPARE_WITHIN(row.levels.at("pd_extinction_kV").value, 1.5 * u0, 0.04);
            COMPARE_WITHIN(row.levels.at("ac_5min_kV").value, 4.5 * u0, 0.03);
            COMPARE_WITHIN(row.levels.at("cyclic_kV").value, (row.class_kV == 46 ? 2.5 : 3.0) * u0, 0.01);
        }
    }
    void multiples_of_u0_hold_in_the_second_school() {
        // IEC 60502-4 (from memory): 4.5 U0 5 min, 4 U0 wet and DC, 1.73 U0 discharge, 2.5 U0 heating cycles.
        const std::map<double, std::pair<double, double>> u0_and_impulse{
            {6, {3.6, 60}}, {10, {6, 75}}, {15, {8.7, 95}}, {20, {12, 125}}, {30, {18, 170}}};
        QCOMPARE(pack("iec60502-4").classes.size(), u0_and_impulse.size());
        for (const auto& row : pack("iec60502-4").classes) {
            const auto [u0, impulse] = u0_and_impulse.at(row.class_kV);
            QCOMPARE(row.u0(), u0);
            QCOMPARE(row.levels.at("impulse_kV").value, impulse);
            COMPARE_WITHIN(row.levels.at("ac_5min_kV").value, 4.5 * u0, 0.015);
            COMPARE_WITHIN(row.levels.at("ac_15min_closing_kV").value, 2.5 * u0, 0.015);
            COMPARE_WITHIN(row.levels.at("ac_1min_wet_kV").value, 4 * u0, 0.015);
            COMPARE_WITHIN(row.levels.at("dc_15min_kV").value, 4 * u0, 0.015);
            COMPARE_WITHIN(row.levels.at("pd_extinction_kV").value, 1.73 * u0, 0.015);
            COMPARE_WITHIN(row.levels.at("cyclic_kV").value, 2.5 * u0, 0.015);
        }
    }
    void the_class_gives_u0_and_the_user_overrides_it() {
        Job job = test::demo_job();
        auto& duty = job.designs[0].duty;
        duty.standard = "iec60502-4";
        duty.class_kV = 15;
        duty.u0_kV.reset();
        auto p = prepare_design(job, job.designs[0].id, test::library());
        REQUIRE_OK(p);
        QCOMPARE(p->design.duty.u0(), 8.7);
        duty.u0_kV = 8.0;
        p = prepare_design(job, job.designs[0].id, test::library());
        REQUIRE_OK(p);
        QCOMPARE(p->design.duty.u0(), 8.0);
    }
    void a_cable_proposes_its_class() {
        const auto pack = [](const std::string& id) {
            return *std::find_if(test::library().standards.begin(), test::library().standards.end(),
                                 [&](const auto& p) { return p.id == id; });
        };
        QCOMPARE(pack("ieee48").for_cable(35)->class_kV, 34.5);
        QCOMPARE(pack("ieee48").for_cable(20)->class_kV, 25.0); // never below the cable
        QCOMPARE(pack("ieee404").for_cable(28)->class_kV, 28.0);
        QCOMPARE(pack("iec60502-4").for_cable(15)->u0(), 8.7);
        QVERIFY(!pack("iec60502-4").for_cable(46));
        // Asked for more than the cable is made for: said with the verdict.
        auto job = test::demo_job();
        job.find_design("quay-mast")->duty.class_kV = 25;
        const auto above = prepare_design(job, "quay-mast", test::library()),
                   own = prepare_design(test::demo_job(), "quay-mast", test::library());
        REQUIRE_OK(above);
        const auto says = [](const PreparedDesign& p) {
            return std::any_of(p.built.statements.begin(), p.built.statements.end(), [](const auto& s) {
                return s.find("above the cable's own, 15 kV") != std::string::npos;
            });
        };
        QVERIFY(says(*above) && !says(*own));
    }
    void a_pack_survives_writing_and_reading() {
        for (const char* id : {"ieee48", "ieee404", "iec60502-4", "ieee386"}) {
            const auto again = read_standards_pack(as_json(id));
            REQUIRE_OK(again);
            QCOMPARE(write_standards_pack(*again).dump(), write_standards_pack(pack(id)).dump());
        }
    }
    void contradictions_are_refused_by_item_data() {
        QTest::addColumn<QString>("pack_id");
        QTest::addColumn<QString>("pointer");
        QTest::addColumn<double>("value");
        QTest::addColumn<QString>("named");
        QTest::newRow("a multiple missed") << "ieee404"
                                           << "/classes/2/levels/ac_5min_kV/value" << 45.0 << "4.5 times U0";
        QTest::newRow("wet above dry") << "ieee48"
                                       << "/classes/3/levels/ac_10s_wet_kV/value" << 55.0 << "ac_10s_wet_kV";
        QTest::newRow("extinction above withstand")
            << "ieee48"
            << "/classes/0/levels/pd_extinction_kV/value" << 21.0 << "pd_extinction_kV";
        QTest::newRow("impulse below the AC crest") << "ieee48"
                                                    << "/classes/3/levels/bil_kV/value" << 69.0 << "bil_kV";
        QTest::newRow("falling with the class") << "ieee48"
                                                << "/classes/4/levels/bil_kV/value" << 109.0 << "bil_kV";
        QTest::newRow("zero") << "ieee48"
                              << "/classes/1/levels/dc_15min_kV/value" << 0.0 << "dc_15min_kV";
    }
    void contradictions_are_refused_by_item() {
        QFETCH(QString, pack_id);
        QFETCH(QString, pointer);
        QFETCH(double, value);
        QFETCH(QString, named);
        auto document = as_json(pack_id.toStdString());
        document[json::json_pointer(pointer.toStdString())] = value;
        const auto read = read_standards_pack(document);
        QVERIFY(!read);
        const auto message = QString::fromStdString(read.error().message());
        QVERIFY2(message.contains(named) && message.contains("class"), qPrintable(message));
    }
    void missing_and_doubled_entries_are_refused() {
        auto document = as_json("ieee48");
        document["classes"][2]["levels"].erase("bil_kV");
        QVERIFY(read_standards_pack(document).error().message().find("bil_kV") != std::string::npos);
        document = as_json("ieee48");
        document["levels"].push_back(document["levels"][0]);
        QVERIFY(read_standards_pack(document).error().message().find("twice") != std::string::npos);
        document = as_json("ieee48");
        document["levels"][1]["kind"] = "mystery";
        QVERIFY(read_standards_pack(document).error().message().find("mystery") != std::string::npos);
    }
    void hot_and_fog_tests_say_how_hot_and_how_wet() {
        for (const auto& [id, level] :
             {std::pair{"ieee404", "bil_hot_kV"}, {"iec60502-4", "impulse_hot_kV"}}) {
            const auto& p = pack(id);
            const auto spec = std::find_if(p.specs.begin(), p.specs.end(),
                                           [name = level](const auto& s) { return s.name == name; });
            QVERIFY(spec != p.specs.end() && spec->kind == TestKind::impulse && spec->conductor_C >= 90.0);
            for (const auto& row : p.classes) // as high as the cold one
                QCOMPARE(row.levels.at(level).value,
                         row.levels.at(std::string(id) == "ieee404" ? "bil_kV" : "impulse_kV").value);
        }
        const auto refused = [](const char* level, const char* key, const json& value) {
            auto document = as_json("iec60502-4");
            for (auto& spec : document["levels"])
                if (spec["name"] == level) spec[key] = value;
            const auto read = read_standards_pack(document);
            return read ? std::string() : read.error().message();
        };
        QVERIFY(refused("impulse_hot_kV", "conductor_C", 400).find("conductor_C") != std::string::npos);
        QVERIFY(refused("ac_5min_kV", "conductor_C", 90).find("conductor_C") != std::string::npos);
        QVERIFY(refused("salt_fog_kV", "film_uS", 0).find("film_uS") != std::string::npos);
        QVERIFY(refused("ac_5min_kV", "film_uS", 5).find("film_uS") != std::string::npos);
        QVERIFY(refused("salt_fog_kV", "indoor_only", true).find("indoors") != std::string::npos);
        QVERIFY(refused("salt_fog_kV", "film_uS", 30).empty());
    }
    void an_override_counts_says_who_and_travels() {
        Job job = test::demo_job();
        const auto id = job.designs[0].id;
        auto& duty = job.designs[0].duty;
        duty = Duty{};
        const auto key = level_key("ieee48", 15, "bil_kV");
        job.level_overrides[key] = {115.0, "engineer A", "2026-11-25", "own copy"};
        job.level_overrides[level_key("ieee48", 15, "dc_15min_kV")] = {
            {}, "engineer A", "2026-11-25", "own copy"};
        const auto again = read_job(json::parse(write_job(job).dump()), "x");
        REQUIRE_OK(again);
        QVERIFY(again->level_overrides == job.level_overrides);
        const auto p = prepare_design(*again, id, test::library());
        REQUIRE_OK(p);
        const auto& bil = p->levels.levels.at("bil_kV");
        QCOMPARE(bil.value, 115.0);
        QVERIFY(bil.verified && bil.provenance == Provenance::user);
        QVERIFY2(bil.origin().find("engineer A") != std::string::npos, bil.origin().c_str());
        const auto& confirmed = p->levels.levels.at("dc_15min_kV");
        QCOMPARE(confirmed.value, 75.0);
        QVERIFY(confirmed.verified && confirmed.provenance == Provenance::from_memory);
        QVERIFY(!p->levels.levels.at("ac_1min_dry_kV").verified);
        // Another class is untouched.
        const auto packs = packs_of(*again, test::library());
        REQUIRE_OK(packs);
        for (const auto& changed : *packs)
            if (changed.id == "ieee48") QCOMPARE(changed.find(25)->levels.at("bil_kV").value, 150.0);
    }
    void an_override_that_contradicts_is_refused() {
        Job job = test::demo_job();
        job.designs[0].duty = Duty{};
        for (const double bad : {60.0, -1.0, 1e9}) {
            job.level_overrides[level_key("ieee48", 15, "bil_kV")].value = bad;
            const auto p = prepare_design(job, job.designs[0].id, test::library());
            QVERIFY(!p);
            QVERIFY(p.error().item.find("15 kV") != std::string::npos);
        }
    }
    void an_imported_pack_goes_before_the_shipped_one() {
        Job job = test::demo_job();
        auto document = as_json("ieee48");
        document["edition"] = "1999, own copy";
        document["classes"][3]["levels"]["bil_kV"]["value"] = 112;
        job.standards_packs.push_back(document);
        const auto again = read_job(json::parse(write_job(job).dump()), "x");
        REQUIRE_OK(again);
        const auto packs = packs_of(*again, test::library());
        REQUIRE_OK(packs);
        QCOMPARE(packs->front().edition, std::string("1999, own copy"));
        QCOMPARE(packs->size(), test::library().standards.size());
        QCOMPARE(packs->front().find(15)->levels.at("bil_kV").value, 112.0);
        document["levels"][0].erase("kind");
        job.standards_packs = {document};
        QVERIFY(!read_job(json::parse(write_job(job).dump()), "x"));
    }
    void a_new_site_travels_and_nonsense_is_refused() {
        Job job = test::demo_job();
        auto& duty = job.designs[0].duty;
        duty.altitude_m = 1800;
        duty.ambient_C = 35;
        duty.pollution = "heavy";
        duty.wet_film_Mohm = 2.5;
        const auto again = read_job(json::parse(write_job(job).dump()), "x");
        REQUIRE_OK(again);
        QCOMPARE(again->designs[0].duty.altitude_m, 1800.0);
        QCOMPARE(again->designs[0].duty.pollution, std::string("heavy"));
        QCOMPARE(again->designs[0].duty.wet_film_Mohm, 2.5);
        for (auto spoil : std::vector<std::function<void(Duty&)>>{
                 [](Duty& d) { d.altitude_m = 9000; }, [](Duty& d) { d.ambient_C = 200; },
                 [](Duty& d) { d.wet_film_Mohm = 0; }, [](Duty& d) { d.pollution = "awful"; }}) {
            auto bad = job;
            spoil(bad.designs[0].duty);
            QVERIFY(!prepare_design(bad, bad.designs[0].id, test::library()));
        }
    }
    void altitude_and_air_density_follow_their_rules() {
        // IEC 62271-1 (from memory): K = exp((H - 1000) / 8150) above 1000 m; 2000 m gives 1.13.
        QCOMPARE(altitude_factor(0), 1.0);
        QCOMPARE(altitude_factor(1000), 1.0);
        COMPARE_WITHIN(altitude_factor(2000), 1.13, 0.002);
        COMPARE_WITHIN(altitude_factor(3000), 1.28, 0.003);
        // The standard atmosphere (ISO 2533): 84.6 % of sea level pressure at 1400 m; the rule here
        // gives 84.2 %.
        COMPARE_WITHIN(closedform::relative_air_density(20, 1400), 0.845, 0.01);
    }
    void creepage_by_pollution_level() { // IEC 60815 of 1986, from memory
        QCOMPARE(*specific_creepage_mm_per_kV("light"), 16.0);
        QCOMPARE(*specific_creepage_mm_per_kV("very heavy"), 31.0);
        QVERIFY(!specific_creepage_mm_per_kV("none"));
    }
    void the_level_table_agrees_with_the_design_notes() {
        // From memory: IEEE 48 at 25 kV: 21.5, 65, 60, 55, 105, 150.
        QCOMPARE(level("ieee48", 25, "pd_extinction_kV"), 21.5);
        QCOMPARE(level("ieee48", 25, "ac_1min_dry_kV"), 65.0);
        QCOMPARE(level("ieee48", 25, "ac_10s_wet_kV"), 60.0);
        QCOMPARE(level("ieee48", 25, "ac_6h_dry_kV"), 55.0);
        QCOMPARE(level("ieee48", 25, "dc_15min_kV"), 105.0);
        QCOMPARE(level("ieee48", 25, "bil_kV"), 150.0);
    }
};

QTEST_APPLESS_MAIN(TestDuty)
#include "test_duty.moc"
