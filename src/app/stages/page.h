// Common manners of the stage panels: a scrolling column with headings, rows and cautions.
#pragma once
#include "app/model/session.h"
#include "app/model/worker.h"
#include "app/stages/quantity_edit.h"
#include <QComboBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace ng::app {

class Page : public QScrollArea {
    Q_OBJECT
  public:
    Page(Session& session, const QString& title, QWidget* parent);
    /// Whatever stands on it scrolls: its size is not asked, which would lay out the pages nobody sees.
    QSize sizeHint() const override { return {322, 600}; }

  protected:
    /// A page that nobody sees is laid out when it is shown.
    bool event(QEvent* event) override;
    QFormLayout* add_group(const QString& heading);
    QLabel* add_text(const QString& text, bool faint = false);
    QLabel* add_caution(const QString& text);
    QuantityEdit* add_quantity(QFormLayout* form, const QString& label, QuantityEdit::Kind kind,
                               const QString& help);
    NameEdit* add_name(QFormLayout* form, const QString& label);
    QComboBox* add_choice(QFormLayout* form, const QString& label, const QStringList& words,
                          bool editable = false);
    /// For long words: label and box over the whole width.
    QComboBox* add_wide_choice(QFormLayout* form, const QString& label, const QStringList& words);

    Session& session_;
    QVBoxLayout* column_;
};

/// Calls `refresh` of a widget whenever the design changes. While a hand drags only of one that is seen: what
/// changed last is told to all when the hand lets go.
template <class Widget> void follow_design(Session& session, Widget* widget, void (Widget::*refresh)()) {
    QObject::connect(&session, &Session::prepared_changed, widget, [&session, widget, refresh] {
        if (!session.is_live() || widget->isVisible()) (widget->*refresh)();
    });
}

/// The buttons for something long that runs: hidden until it does.
struct RunRow {
    QPushButton *pause = nullptr, *cancel = nullptr;
    void show() const;
    void hide() const;
};
/// A row of buttons that begin something long, and of those to pause and to cancel it.
RunRow add_run_row(QVBoxLayout* column, const std::vector<QPushButton*>& begin, Worker& worker);

/// Shows a value in a box without its signals.
void show_text(QComboBox* box, const QString& text);

} // namespace ng::app
