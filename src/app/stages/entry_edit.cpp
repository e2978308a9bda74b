#include "app/stages/entry_edit.h"
#include <QKeyEvent>

namespace ng::app {

bool EntryEdit::event(QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride && !isModified()) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if ((key->modifiers() & Qt::ControlModifier) &&
            (key->key() == Qt::Key_Z || key->key() == Qt::Key_Y)) {
            event->ignore();
            return true;
        }
    }
    return QLineEdit::event(event);
}

NameEdit::NameEdit(const QString& label, QWidget* parent) : EntryEdit(parent) {
    setAccessibleName(label);
    connect(this, &QLineEdit::editingFinished, this, &NameEdit::enter);
}

void NameEdit::enter() {
    if (!isModified()) return;
    setModified(false);
    const auto name = text().trimmed();
    if (name.isEmpty())
        setText(shown_);
    else if (name != shown_)
        emit entered(name);
}

void NameEdit::show_name(const QString& name) {
    shown_ = name;
    if (isModified() && hasFocus()) return;
    setText(name);
}

} // namespace ng::app
