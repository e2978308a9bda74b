#include "app/stages/page.h"
#include <QSignalBlocker>

namespace ng::app {

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

QuantityEdit* Page::add_quantity(QFormLayout* form, const QString& label, QuantityEdit::Kind kind, const QString& help) {
    auto* edit = new QuantityEdit(session_, kind, label);
    edit->setFixedWidth(96);
    edit->setToolTip(help + (help.isEmpty() ? "" : ". ") + "Up and Down nudge it (Shift ×10, Alt ÷10)");
    form->addRow(label, edit);
    return edit;
}

QComboBox* Page::add_choice(QFormLayout* form, const QString& label, const QStringList& words, bool editable) {
    auto* box = new QComboBox;
    box->addItems(words);
    box->setEditable(editable);
    box->setAccessibleName(label);
    box->setFixedWidth(150);
    box->setFocusPolicy(Qt::StrongFocus);
    form->addRow(label, box);
    return box;
}

void show_text(QComboBox* box, const QString& text) {
    const QSignalBlocker quiet(box);
    const int index = box->findText(text);
    if (index >= 0) box->setCurrentIndex(index);
    else if (box->isEditable()) box->setEditText(text);
    else {
        box->addItem(text); // a value of the file that the list does not offer
        box->setCurrentIndex(box->count() - 1);
    }
}

} // namespace ng::app
