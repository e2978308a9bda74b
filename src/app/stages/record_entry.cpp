#include "app/stages/record_entry.h"
#include "app/model/text.h"
#include "fault/fault.h"
#include "units/quantity.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <array>

namespace ng::app {
namespace {

struct EntryForm {
    const char *words, *first, *second;
    const char *what, *unit; ///< of readings
};
constexpr std::array<EntryForm, 8> forms{{{"Note", "text", "", "", ""},
                                          {"Part", "part and size", "batch", "", ""},
                                          {"File…", "what it shows", "", "", ""},
                                          {"Temperature", "of what", "°C", "temperature", "degC"},
                                          {"Humidity", "of what", "%", "humidity", "%"},
                                          {"Torque", "of what", "Nm", "torque", "Nm"},
                                          {"Crimps or bolts", "of what", "how many", "crimps", "pieces"},
                                          {"Fault of the design", "", "", "", ""}}};

} // namespace

RecordEntry::RecordEntry(Session& session, Recorder& recorder, QWidget* parent)
    : QWidget(parent), session_(session), recorder_(recorder) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* top = new QHBoxLayout;
    kind_ = new QComboBox;
    kind_->setAccessibleName("What is written down");
    for (const auto& form : forms) kind_->addItem(form.words);
    decision_ = new QComboBox;
    decision_->setAccessibleName("Decision on the fault");
    decision_->addItems({"accept", "rework", "cut back", "open"});
    add_ = new QPushButton("Write");
    add_->setAccessibleName("Write it down");
    top->addWidget(kind_);
    top->addWidget(decision_);
    top->addStretch();
    top->addWidget(add_);
    column->addLayout(top);
    auto* line = new QHBoxLayout;
    first_ = new QLineEdit;
    second_ = new QLineEdit;
    first_->setAccessibleName("What");
    second_->setAccessibleName("How much, or which batch");
    second_->setFixedWidth(80);
    faults_ = new QComboBox;
    faults_->setAccessibleName("Fault of the design");
    faults_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    line->addWidget(first_, 1);
    line->addWidget(second_);
    line->addWidget(faults_, 1);
    column->addLayout(line);
    connect(kind_, &QComboBox::currentIndexChanged, this, &RecordEntry::choose);
    const auto write = [this] {
        if (!add(kind_->currentIndex(), first_->text(), second_->text())) return;
        first_->clear();
        second_->clear();
    };
    connect(add_, &QPushButton::clicked, this, write);
    connect(second_, &QLineEdit::returnPressed, this, write);
    const auto list = [this] {
        faults_->clear();
        for (const auto& fault : session_.document.design().faults) faults_->addItem(q(fault_words(fault)));
    };
    connect(&session, &Session::prepared_changed, this, list);
    list();
    choose(0);
}

void RecordEntry::choose(int kind) {
    const auto& form = forms.at(static_cast<std::size_t>(kind));
    first_->setPlaceholderText(form.first);
    second_->setPlaceholderText(form.second);
    first_->setVisible(kind != fault);
    second_->setVisible(*form.second != '\0');
    faults_->setVisible(kind == fault);
    decision_->setVisible(kind == fault);
}

bool RecordEntry::add_fault() {
    const auto& faults = session_.document.design().faults;
    const auto at = faults_->currentIndex();
    if (at < 0 || at >= static_cast<int>(faults.size())) {
        session_.tell({"Fault", "none lies on this design", "Keep it in Faults first"});
        return false;
    }
    const auto& one = faults[static_cast<std::size_t>(at)];
    EntryDraft draft;
    draft.kind = "fault";
    draft.body = {
        {"fault", one.kind},
        {"size_mm", one.size_mm},
        {"filling", one.filling},
        {"words", fault_words(one)},
        {"decision", decision_->currentIndex() == 2 ? "cut_back" : decision_->currentText().toStdString()}};
    if (one.side != Side::none) draft.body["side"] = one.side == Side::a ? "A" : "B";
    if (one.from_edge_mm) draft.body["from_edge_mm"] = *one.from_edge_mm;
    if (one.width_mm) draft.body["width_mm"] = *one.width_mm;
    if (one.sheet_ohm) draft.body["sheet_ohm"] = *one.sheet_ohm;
    if (const auto* kind = find_fault_kind(one.kind)) {
        draft.body["means"] = kind->inspection.means;
        draft.body["step"] = kind->step;
    }
    return recorder_.write(std::move(draft));
}

bool RecordEntry::add(int kind, const QString& first, const QString& second) {
    const auto& form = forms.at(static_cast<std::size_t>(kind));
    const auto text = first.trimmed().toStdString(), more = second.trimmed().toStdString();
    if (kind == fault) return add_fault();
    if (kind == file) {
        if (!recorder_.record()) return false;
        const auto path = QFileDialog::getOpenFileName(this, "File to keep with the record");
        return !path.isEmpty() && recorder_.write_file(path, first.trimmed());
    }
    if (text.empty()) {
        session_.tell({form.words, "nothing is typed", "Type what it is"});
        return false;
    }
    EntryDraft draft;
    if (kind == note) {
        draft.kind = "note";
        draft.body = {{"text", text}};
    } else if (kind == part) {
        draft.kind = "part";
        draft.body = {{"part", text}};
        if (!more.empty()) draft.body["batch"] = more;
    } else {
        const auto value = parse_number(more,
                                        kind == temperature ? "°C"
                                        : kind == crimps    ? ""
                                                            : form.unit,
                                        form.words);
        if (!value) {
            session_.tell(value.error());
            return false;
        }
        draft.kind = "reading";
        draft.body = {
            {"what", form.what}, {"label", text}, {"value", *value}, {"unit", form.unit}, {"typed", more}};
    }
    return recorder_.write(std::move(draft));
}

} // namespace ng::app
