// Writing the record at a step: each mark that the step sets in a field for gloved hands, with its range and
// what the instrument sends; its hold point closed by one touch; and what the field says of it.
#pragma once
#include "app/model/recorder.h"
#include "app/stages/touch.h"
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace ng::app {

class RecordPanel : public QWidget {
    Q_OBJECT
  public:
    RecordPanel(Session& session, Recorder& recorder, QWidget* parent = nullptr);
    void show_step(const SheetStep& step);

    /// One thing to be read at this step.
    struct Row {
        enum class What { mark, diameter } what = What::mark;
        PlaceId place;
        std::string label, side;
        bool across = false;
        QLineEdit* field = nullptr;
        QLabel* state = nullptr;
        QPushButton *write = nullptr, *correct = nullptr;
        std::optional<std::int64_t> written = {}; ///< the row that stands for it
        std::optional<InstrumentReading> from;    ///< what the field holds came from the instrument
    };
    const std::vector<Row>& rows() const { return rows_; }
    /// Writes what the field of a row holds. False: it could not be used; it stays as typed.
    bool write_row(std::size_t index);
    /// The same in the place of what was written before, for one of these reasons.
    bool correct_row(std::size_t index, const std::string& why);
    void ask_why(std::size_t index); ///< shows the reasons, to be touched
    QWidget* reasons() { return why_box_; }
    bool decide(const char* decision);
    QLineEdit* found_field() { return found_; }
    QLabel* field_words() { return field_; }
    QLabel* hold_words() { return hold_state_; }
    QPushButton* begin_button() { return begin_; }
    QLineEdit* initials_field() { return initials_; }

  signals:
    void wants_begin();

  private:
    void refresh();
    void fill_states();
    void take(const InstrumentReading& reading);
    Result<double> value_of(Row& row);
    const RecordedReading* last_of(const Row& row) const;
    void was_written(std::size_t index);
    void connect_port();
    void enter_who();
    void say(const QString& words); ///< of the instrument

    Session& session_;
    Recorder& recorder_;
    std::optional<SheetStep> step_;
    std::vector<Row> rows_;
    QWidget* fields_;
    QGridLayout* grid_;
    QComboBox *role_, *port_;
    QLineEdit *initials_, *found_;
    QPushButton *begin_, *listen_, *read_, *pad_button_, *accept_, *rework_, *cut_back_;
    QLabel *port_state_, *hold_state_, *field_;
    QWidget *hold_box_, *entry_box_, *why_box_;
    QLabel* why_words_;
    std::size_t corrected_ = 0; ///< the row that the reasons are asked for
    KeyPad* pad_;
};

} // namespace ng::app
