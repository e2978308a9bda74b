#include "closedform/air.h"
#include "closedform/closedform.h"
#include "support.h"

using namespace ng;
using namespace ng::closedform;

class TestClosedForm : public QObject {
    Q_OBJECT
  private slots:
    void radial_field_of_one_layer() {
        // 8.7 kV on 9 to 13.45 mm: U / (r ln(R/r)) = 8.7 / (9 x 0.40177) worked by hand.
        const RadialLayer xlpe[] = {{13.45, 2.3}};
        COMPARE_WITHIN(radial_field_kV_per_mm(8.7, 9, xlpe, 9), 2.4060, 1e-4);
    }
    void voltages_across_layers_sum_to_the_whole() {
        const RadialLayer layers[] = {{12, 2.3}, {20, 15}, {40, 1}};
        double sum = 0;
        const int n = 40000;
        for (int i = 0; i < n; ++i) {
            const double r = 9 + 31.0 * (i + 0.5) / n;
            sum += radial_field_kV_per_mm(10, 9, layers, r) * 31.0 / n;
        }
        COMPARE_WITHIN(sum, 10.0, 1e-4);
    }
    void graded_layer_satisfies_its_equation_and_ends() {
        const GradedLayer layer{8.7, 9, 13.45, 2.3, 2.0, 25, 90};
        COMPARE_WITHIN(layer.tangential_kV_per_mm(0),
                       layer.beta_per_mm() * 8.7 * std::tanh(layer.beta_per_mm() * 90), 1e-12);
        QVERIFY(std::abs(layer.potential_kV(0)) < 1e-12);
        QVERIFY(std::abs(layer.tangential_kV_per_mm(90)) < 1e-12);
        for (const double z : {5.0, 20.0, 60.0}) { // V'' = beta^2 (V - U), by central differences
            const double h = 1e-2;
            const double second =
                (layer.potential_kV(z + h) - 2 * layer.potential_kV(z) + layer.potential_kV(z - h)) / (h * h);
            COMPARE_WITHIN(second, layer.beta_per_mm() * layer.beta_per_mm() * (layer.potential_kV(z) - 8.7),
                           1e-4);
            COMPARE_WITHIN((layer.potential_kV(z + h) - layer.potential_kV(z - h)) / (2 * h),
                           layer.tangential_kV_per_mm(z), 1e-4);
        }
    }
    void recovery_keeps_the_volume() {
        const ShrinkTube tube{40, 15, 3.5};
        const auto wall = recovered_wall_mm(tube, 25, "tube");
        REQUIRE_OK(wall);
        const double free_area = std::pow(15 + 2 * 3.5, 2) - 15.0 * 15.0,
                     area = std::pow(25 + 2 * *wall, 2) - 25.0 * 25.0;
        COMPARE_WITHIN(area, free_area, 1e-12);
        COMPARE_WITHIN(*recovered_wall_mm(tube, 15, "tube"), 3.5, 1e-12); // fully recovered: its own wall
        COMPARE_WITHIN(recovered_outer_radius_mm(tube, 12.5), 12.5 + *wall, 1e-12);
    }
    void a_tube_that_does_not_fit_says_how() {
        const ShrinkTube tube{40, 15, 3.5};
        QVERIFY(recovered_wall_mm(tube, 14, "Stress tube").error().problem.find("cannot recover onto") !=
                std::string::npos);
        QVERIFY(recovered_wall_mm(tube, 41, "Stress tube").error().problem.find("cannot go over") !=
                std::string::npos);
        QVERIFY(!recovered_wall_mm({10, 15, 3.5}, 12, "Stress tube"));
        QVERIFY(!recovered_wall_mm({40, 15, -1}, 20, "Stress tube"));
    }
    void charging_current() {
        // 0.2 uF/km at 8.7 kV, 60 Hz: 2 pi 60 x 0.2e-9 F/m x 8700 V = 0.656 mA/m, worked by hand.
        COMPARE_WITHIN(charging_current_A_per_m(0.2e-9, 8.7, 60), 0.656e-3, 1e-3);
    }
    /// The integral along an even gap begins where the closed form of that gap says (both Petcharaks, from
    /// memory).
    void the_streamer_integral_of_an_even_gap_is_its_closed_form() {
        for (const double density : {0.7, 1.0})
            for (const double gap : {0.35, 0.5, 1.0, 5.0}) {
                const std::vector<std::pair<double, double>> even{{0, 1.0}, {gap / 2, 1.0}, {gap, 1.0}};
                COMPARE_WITHIN(streamer_inception_factor(even, density) * gap,
                               streamer_inception_kV_peak(gap, density), 1e-9);
            }
        // An uneven field begins at less voltage than an even one of the same gap.
        std::vector<std::pair<double, double>> uneven;
        double across = 0;
        for (int i = 0; i <= 400; ++i) {
            const double s = i / 400.0;
            uneven.emplace_back(s, 1 / (0.2 + s));
            if (i) across += (uneven[i].second + uneven[i - 1].second) / 800;
        }
        QVERIFY(streamer_inception_factor(uneven, 1) * across < streamer_inception_kV_peak(1, 1));
        QVERIFY(std::isinf(streamer_inception_factor({{0, 1.0}, {0.1, 1.0}}, 1))); // below 0.2 mm bar
        QVERIFY(std::isinf(streamer_inception_factor({{0, 0.0}, {1, 0.0}}, 1)));
        // A virgin void 0.5 mm across waits about a day at 1.2 times its inception (from memory, 75 % sure).
        const double sphere = std::numbers::pi / 6 * 0.125;
        QVERIFY(std::abs(first_electron_wait_s(sphere, 1.2, 1) / 86400 - 1) < 0.1);
        QVERIFY(std::isinf(first_electron_wait_s(sphere, 1, 1)));
    }
};
QTEST_APPLESS_MAIN(TestClosedForm)
#include "test_closedform.moc"
