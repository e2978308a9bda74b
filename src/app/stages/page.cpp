#include "app/stages/page.h"
#include <QHBoxLayout>
#include <QSignalBlocker>

namespace ng::app {
namespace {

constexpr int label_width = 150, field_width = 100;

/// One label column for the whole panel, so that the fields stand in line.
QLabel* row_label(const QString& text) {
    auto* label = new QLabel(text);
    label->setFixedWidth(label_width);
    label->setWordWrap(true);
    return label;
}

QComboBox* choice_box(const QString& label, const QStringList& words) {
    auto* box = new QComboBox;
    box->addItems(words);
    box->setAccessibleName(label);
    box->setFocusPolicy(Qt::StrongFocus);
    return box;
}

void add_wide_row(QFormLayout* form, const QString& label, QWidget* field) {
    field->setFixedWidth(label_width + field_width + 24 + form->horizontalSpacing());
    auto* row = new QVBoxLayout;
    row->setSpacing(1);
    row->addWidget(row_label(label));
    row->addWidget(field);
    form->addRow(row);
}

} // namespace

void RunRow::show() const {
    pause->setText("Pause");
    pause->show();
    cancel->show();
}

void RunRow::hide() const {
    pause->hide();
    cancel->hide();
}

RunRow add_run_row(QVBoxLayout* column, const std::vector<QPushButton*>& begin, Worker& worker) {
    auto* row = new QHBoxLayout;
    for (auto* button : begin) row->addWidget(button);
    const RunRow out{new QPushButton("Pause"), new QPushButton("Cancel")};
    row->addStretch();
    column->addLayout(row);
    auto* running = new QHBoxLayout;
    for (auto* button : {out.pause, out.cancel}) running->addWidget(button);
    running->addStretch();
    column->addLayout(running);
    out.hide();
    QObject::connect(out.pause, &QPushButton::clicked, out.pause, [pause = out.pause, &worker] {
        const bool waits = worker.is_paused();
        if (waits)
            worker.go_on();
        else
            worker.pause();
        pause->setText(waits ? "Pause" : "Go on");
    });
    return out;
}

Page::Page(Session& session, const QString& title, QWidget* parent) : QScrollArea(parent), session_(session) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    auto* body = new QWidget;
    body->setObjectName("pageBody");
    column_ = new QVBoxLayout(body);
    column_->setContentsMargins(14, 10, 12, 12);
    column_->setSpacing(4);
    auto* heading = new QLabel(title);
    heading->setFont(draw::ui_font(13, true));
    column_->addWidget(heading);
    setWidget(body);
    setAccessibleName(title);
}

bool Page::event(QEvent* event) {
    const bool lays_out = event->type() == QEvent::StyleChange || event->type() == QEvent::LayoutRequest;
    if (lays_out && !isVisible()) return QAbstractScrollArea::event(event);
    if (event->type() == QEvent::Show) {
        QEvent request(QEvent::LayoutRequest);
        QScrollArea::event(&request);
    }
    return QScrollArea::event(event);
}

QFormLayout* Page::add_group(const QString& heading) {
    auto* label = new QLabel(heading);
    label->setFont(draw::ui_font(9, true));
    label->setContentsMargins(0, 8, 0, 0);
    column_->addWidget(label);
    auto* form = new QFormLayout;
    form->setContentsMargins(0, 0, 0, 0);
    form->setVerticalSpacing(3);
    form->setFieldGrowthPolicy(QFormLayout::FieldsStayAtSizeHint);
    form->setLabelAlignment(Qt::AlignLeft);
    form->setFormAlignment(Qt::AlignLeft | Qt::AlignTop);
    column_->addLayout(form);
    return form;
}

QLabel* Page::add_text(const QString& text, bool faint) {
    auto* label = new QLabel(text);
    label->setWordWrap(true);
    label->setProperty("faint", faint);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column_->addWidget(label);
    return label;
}

QLabel* Page::add_caution(const QString& text) {
    auto* label = add_text("Caution. " + text);
    label->setProperty("caution", true);
    return label;
}

QuantityEdit* Page::add_quantity(QFormLayout* form, const QString& label, QuantityEdit::Kind kind,
                                 const QString& help) {
    auto* edit = new QuantityEdit(session_, kind, label);
    edit->setFixedWidth(field_width);
    edit->setToolTip(help + (help.isEmpty() ? "" : ". ") + "Up and Down nudge it (Shift ×10, Alt ÷10)");
    form->addRow(row_label(label), edit);
    return edit;
}

NameEdit* Page::add_name(QFormLayout* form, const QString& label) {
    auto* line = new NameEdit(label);
    add_wide_row(form, label, line);
    return line;
}

QComboBox* Page::add_choice(QFormLayout* form, const QString& label, const QStringList& words,
                            bool editable) {
    auto* box = choice_box(label, words);
    box->setEditable(editable);
    box->setFixedWidth(field_width + 24);
    form->addRow(row_label(label), box);
    return box;
}

QComboBox* Page::add_wide_choice(QFormLayout* form, const QString& label, const QStringList& words) {
    auto* box = choice_box(label, words);
    add_wide_row(form, label, box);
    return box;
}

void show_text(QComboBox* box, const QString& text) {
    const QSignalBlocker quiet(box);
    const int index = box->findText(text);
    if (index >= 0)
        box->setCurrentIndex(index);
    else if (box->isEditable())
        box->setEditText(text);
    else {
        box->addItem(text); // a value of the file that the list does not offer
        box->setCurrentIndex(box->count() - 1);
    }
}

} // namespace ng::app
