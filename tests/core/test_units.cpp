#include "support.h"
#include "units/provenance.h"
#include "units/quantity.h"

using namespace ng;

class TestUnits : public QObject {
    Q_OBJECT
  private slots:
    void stress_is_shown_in_three_units() {
        // 1 kV/mm is 1000 V over 1/0.0254 mil, and 25.4 mm are an inch (exact).
        QCOMPARE(stress_factor(StressUnit::kV_per_mm), 1.0);
        COMPARE_WITHIN(stress_factor(StressUnit::V_per_mil), 1000.0 / (1 / 0.0254), 1e-12);
        COMPARE_WITHIN(stress_factor(StressUnit::kV_per_inch), 25.4, 1e-12);
        QCOMPARE(in_stress_unit("kV/mm rms", StressUnit::V_per_mil), std::string("V/mil rms"));
        QCOMPARE(in_stress_unit("kV/mm peak", StressUnit::kV_per_inch), std::string("kV/in peak"));
        QCOMPARE(in_stress_unit("kV/mm", StressUnit::kV_per_mm), std::string("kV/mm"));
        QCOMPARE(stress_factor("kV/mm peak", StressUnit::V_per_mil), 25.4);
        QCOMPARE(stress_factor("ratio", StressUnit::V_per_mil), 1.0);
        QCOMPARE(in_stress_unit("ratio", StressUnit::V_per_mil), std::string("ratio"));
        const std::string words = "8.92 kV/mm rms at z 3.9 mm is 27 % above the limit of at most 7.00 kV/mm.";
        QCOMPARE(words_in_stress_unit(words, StressUnit::kV_per_mm), words);
        QCOMPARE(words_in_stress_unit(words, StressUnit::V_per_mil),
                 std::string("227 V/mil rms at z 3.9 mm is 27 % above the limit of at most 178 V/mil."));
        QCOMPARE(words_in_stress_unit("0.040 kV/mm", StressUnit::kV_per_inch), std::string("1.0 kV/in"));
        QCOMPARE(words_in_stress_unit("12 kV, 3 mm", StressUnit::V_per_mil), std::string("12 kV, 3 mm"));
        const auto typed = [](const char* text, StressUnit bare) {
            return parse_stress_kV_per_mm(text, bare);
        };
        COMPARE_WITHIN(*typed("2,5", StressUnit::kV_per_mm), 2.5, 1e-12);
        COMPARE_WITHIN(*typed("254", StressUnit::V_per_mil), 10.0, 1e-12);
        COMPARE_WITHIN(*typed("254 kv/in", StressUnit::kV_per_mm), 10.0, 1e-12);
        COMPARE_WITHIN(*typed("2.5kV/mm", StressUnit::V_per_mil), 2.5, 1e-12);
        QVERIFY(!typed("2.5 kV", StressUnit::V_per_mil) && !typed("much", StressUnit::kV_per_mm));
    }
    /// Decimals by what is typed; what could be thousands is refused, never guessed.
    void commas_and_points_are_read_as_typed_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("mm");
        for (const auto& [text, mm] :
             {std::pair{"0,9 mm", 0.9}, std::pair{"12,5", 12.5}, std::pair{"12,50", 12.5},
              std::pair{"1.234,5", 1234.5}, std::pair{"1,234.5", 1234.5}, std::pair{"-3,25", -3.25},
              std::pair{"0,125 in", 3.175}, std::pair{"1234,567", 1234.567},
              std::pair{"12,345,678.5 mil", 12345678.5 * 0.0254 / 1000 * 1000}})
            QTest::newRow(text) << text << mm;
        for (const char* text :
             {"1,234", "12,345 mm", "-7,500", "1,2,3", "1.23,4", "1,23.4", "12,", ",", "1,,2", "1.2.3,4"})
            QTest::newRow(text) << text << std::nan("");
    }
    void commas_and_points_are_read_as_typed() {
        QFETCH(QString, text);
        QFETCH(double, mm);
        const auto value = parse_length_mm(text.toStdString(), LengthUnit::mm, "length");
        if (std::isnan(mm)) {
            QVERIFY2(!value, qPrintable(QString::number(value.value_or(0))));
            QVERIFY(!value.error().remedy.empty());
        } else if (std::abs(mm) > 1e5) {
            QVERIFY(!value && value.error().problem.find("beyond") != std::string::npos);
        } else {
            QVERIFY2(value.has_value(), value ? "" : value.error().message().c_str());
            QVERIFY(std::abs(*value - mm) < 1e-9);
        }
    }
    void lengths_are_read_in_every_unit_people_type_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("mm");
        QTest::newRow("bare") << "12.5" << 12.5;
        QTest::newRow("mm, no space") << "4.45mm" << 4.45;
        QTest::newRow("decimal inch") << "0.175 in" << 4.445;
        QTest::newRow("mil") << "175 mil" << 4.445;
        QTest::newRow("fraction") << "7/8 in" << 22.225;
        QTest::newRow("mixed number") << "2 1/8 in" << 53.975;
        QTest::newRow("quote") << "1\"" << 25.4;
        QTest::newRow("cm") << " 1.2 CM " << 12.0;
        QTest::newRow("negative") << "-3 mm" << -3.0;
    }
    void lengths_are_read_in_every_unit_people_type() {
        QFETCH(QString, text);
        QFETCH(double, mm);
        const auto value = parse_length_mm(text.toStdString(), LengthUnit::mm);
        REQUIRE_OK(value);
        QCOMPARE(*value, mm);
    }
    void a_bare_number_is_in_the_unit_on_screen() { QCOMPARE(*parse_length_mm("2", LengthUnit::inch), 50.8); }
    void nonsense_is_refused_by_name_data() {
        QTest::addColumn<QString>("text");
        for (const char* t :
             {"", "abc", "1.2.3", "5 furlongs", "nan", "inf", "1/0 in", "2 1/ in", "1e9 mm", "1,234 mm"})
            QTest::newRow(t) << t;
    }
    void nonsense_is_refused_by_name() {
        QFETCH(QString, text);
        const auto value = parse_length_mm(text.toStdString(), LengthUnit::mm, "tube length");
        QVERIFY(!value);
        QCOMPARE(value.error().item, std::string("tube length"));
        QVERIFY(!value.error().problem.empty() && !value.error().remedy.empty());
    }
    void voltages_and_numbers() {
        QCOMPARE(*parse_voltage_kV("8.7 kV"), 8.7);
        QCOMPARE(*parse_voltage_kV("8700 V"), 8.7);
        QVERIFY(!parse_voltage_kV("8.7 mm"));
        QCOMPARE(*parse_number("60 Hz", "Hz"), 60.0);
        QVERIFY(!parse_number("60 rpm", "Hz"));
    }
    void lengths_are_written_with_their_unit() {
        QCOMPARE(format_length(12.345, LengthUnit::mm), std::string("12.35 mm"));
        QCOMPARE(format_length(230.54, LengthUnit::mm), std::string("230.5 mm"));
        QCOMPARE(format_length(25.4, LengthUnit::inch), std::string("1.000 in"));
        QCOMPARE(format_length(-0.0001, LengthUnit::mm), std::string("0.00 mm"));
    }
    void what_is_written_reads_back() {
        for (const double v : {0.03, 1.5, 17.77, 230.5, 1999.9}) {
            // Half a unit of the last written place: 0.005 mm below 100 mm, 0.05 mm above, 0.0005 in.
            QVERIFY(std::abs(*parse_length_mm(format_length(v, LengthUnit::mm), LengthUnit::inch) - v) <=
                    (v < 100 ? 0.00501 : 0.0501));
            QVERIFY(std::abs(*parse_length_mm(format_length(v, LengthUnit::inch), LengthUnit::mm) - v) <=
                    0.000501 * mm_per_inch);
        }
    }
    void no_digit_is_printed_that_the_error_does_not_support() {
        QCOMPARE(format_supported(0.65912, 0.001), std::string("0.659"));
        QCOMPARE(format_supported(0.65912, 0.05), std::string("0.66"));
    }
    void provenance_words_go_round() {
        for (const auto p : {Provenance::from_memory, Provenance::computed, Provenance::common_practice,
                             Provenance::measured, Provenance::user, Provenance::invented})
            QCOMPARE(provenance_from_word(to_word(p)), p);
        QVERIFY((SourcedValue{1, "kV", Provenance::from_memory, false, ""}.origin().find("verify") !=
                 std::string::npos));
        QVERIFY((SourcedValue{1, "kV", Provenance::from_memory, true, ""}.origin().find("verify against") ==
                 std::string::npos));
    }
};
QTEST_APPLESS_MAIN(TestUnits)
#include "test_units.moc"
