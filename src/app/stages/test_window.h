// Tests on site: what is tested, at which level and by whose limits; a trace as it comes from a test set, a
// file that one delivered, or a reading that is typed; held against the limits and written to the record.
#pragma once
#include "app/model/recorder.h"
#include "record/site_test.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

namespace ng::app {

class TestWindow : public QWidget {
    Q_OBJECT
  public:
    TestWindow(Session& session, Recorder& recorder, QWidget* parent = nullptr);
    const std::vector<SiteTest>& tests() const { return tests_; }
    void choose(int index);
    QString port_says(const QString& port); ///< opens it; empty: listening
    void start();
    void abort();
    bool is_running() const { return running_; }
    const std::vector<TracePoint>& trace() const { return trace_; }
    /// At the test's own frequency beside the power frequency; none: not asked or not solved yet.
    const FieldAtTest* field() const { return shown_field_.get(); }
    QString result() const { return result_->text(); }
    QString state() const { return state_->text(); } ///< what the set says, or why something was left out
    void type_reading(const QString& text);
    Result<void> load_trace(const QString& path);
    Result<void> save_trace(const QString& path) const;
    bool write_result();

  signals:
    void ended();

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    class Picture;
    class FieldPicture;
    void plan_tests();
    void show_test();
    void take(const InstrumentEvent& event);
    void finish(bool broke_down);
    void find_field();
    void stop_listening();
    void forget_trace();

    Session& session_;
    Recorder& recorder_;
    std::vector<SiteTest> tests_;
    int chosen_ = 0;
    std::vector<TracePoint> trace_;
    std::vector<std::pair<double, double>> pulses_;
    std::optional<double> inception_kV_, extinction_kV_; ///< as read, kV rms
    std::optional<TestOutcome> outcome_;
    std::shared_ptr<const FieldAtTest> shown_field_;
    std::string source_;
    bool running_ = false, broke_down_ = false;
    InstrumentPort port_;
    Worker field_worker_;
    int run_ = 0;
    QComboBox *occasion_, *port_box_;
    QListWidget* list_;
    QLabel *title_, *how_, *cautions_, *result_, *field_, *state_;
    QLineEdit* typed_;
    QPushButton *listen_, *start_, *abort_, *load_, *save_, *write_;
    Picture* picture_;
    FieldPicture* field_picture_;
};

} // namespace ng::app
