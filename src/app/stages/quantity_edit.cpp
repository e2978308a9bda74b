#include "app/stages/quantity_edit.h"
#include <QKeyEvent>
#include <cmath>

namespace ng::app {

QuantityEdit::QuantityEdit(Session& session, Kind kind, const QString& name, QWidget* parent)
    : EntryEdit(parent), session_(session), kind_(kind), name_(name) {
    setAccessibleName(name);
    setAlignment(Qt::AlignRight);
    connect(this, &QLineEdit::returnPressed, this, [this] {
        commit();
        selectAll();
    });
    const auto show_again = [this] {
        if (!wrong_) show_value(value_, is_default_);
    };
    connect(&session, &Session::look_changed, this, show_again);
    // Once more when the window has its new style sheet: it puts back the font and colour of an earlier time.
    connect(&session, &Session::look_changed, this, show_again, Qt::QueuedConnection);
}

QString QuantityEdit::written(double value) const {
    if (std::isnan(value)) return {};
    if (kind_ == Kind::length) return QString::fromStdString(format_length(value, session_.unit()));
    if (kind_ == Kind::stress)
        return QString::number(value * stress_factor(session_.stress_unit()), 'g', 4) + " " +
               QString::fromStdString(in_stress_unit("kV/mm", session_.stress_unit()));
    return QString::number(value, 'g', 5) + (kind_ == Kind::voltage ? " kV" : "");
}

void QuantityEdit::show_value(double value, bool is_default) {
    value_ = value;
    is_default_ = is_default;
    if (hasFocus() && isModified() && text() != shown_) return; // the user is typing
    shown_ = written(value);
    setText(shown_);
    setModified(false);
    mark(false);
    QPalette p = palette();
    p.setColor(QPalette::Text, is_default ? session_.theme().faint : session_.theme().ink);
    p.setColor(QPalette::Disabled, QPalette::Text, session_.theme().faint);
    setPalette(p);
    QFont f = font();
    f.setItalic(is_default);
    setFont(f);
}

void QuantityEdit::mark(bool wrong) {
    wrong_ = wrong;
    const auto sheet =
        wrong ? QString("border: 2px solid %1;").arg(session_.theme().brick.name()) : QString();
    if (sheet != styleSheet()) setStyleSheet(sheet); // polishing takes longer than all else of a field
}

void QuantityEdit::commit() {
    if (text() == shown_ || !isModified()) return;
    if (text().trimmed().isEmpty() && may_be_empty_) {
        setModified(false);
        emit cleared();
        return;
    }
    const auto typed = text().toStdString(), item = name_.toStdString();
    auto value = kind_ == Kind::length    ? parse_length_mm(typed, session_.unit(), item)
                 : kind_ == Kind::voltage ? parse_voltage_kV(typed, item)
                 : kind_ == Kind::stress  ? parse_stress_kV_per_mm(typed, session_.stress_unit(), item)
                                          : parse_number(typed, "", item);
    if (!value) {
        mark(true);
        said_ = QString::fromStdString(value.error().message());
        session_.tell(value.error());
        return;
    }
    setModified(false);
    mark(false);
    withdraw();
    shown_ = text();
    const double before = value_;
    emit entered(*value);
    if ((value_ == before || (std::isnan(value_) && std::isnan(before))) && *value != before)
        show_value(before, is_default_); // refused by the model
    else
        show_value(*value, false);
}

void QuantityEdit::withdraw() {
    if (!said_.isEmpty()) emit session_.withdrawn(said_);
    said_.clear();
}

void QuantityEdit::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) {
        const double unit =
            kind_ == Kind::length && session_.unit() == LengthUnit::inch ? mm_per_inch / 32 / 0.5 : 1;
        double step = step_ * unit;
        if (event->modifiers() & Qt::ShiftModifier) step *= 10;
        if (event->modifiers() & Qt::AltModifier) step /= 10;
        emit entered((std::isnan(value_) ? 0 : value_) + (event->key() == Qt::Key_Up ? step : -step));
        return;
    }
    if (event->key() == Qt::Key_Escape) {
        setText(shown_);
        setModified(false);
        mark(false);
        withdraw();
        event->accept();
        return;
    }
    EntryEdit::keyPressEvent(event);
}

void QuantityEdit::focusOutEvent(QFocusEvent* event) {
    commit();
    EntryEdit::focusOutEvent(event);
}

} // namespace ng::app
