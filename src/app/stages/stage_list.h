// The stages in the order in which practitioners work; each with its state by shape and word.
#pragma once
#include "app/model/session.h"
#include <QAbstractButton>
#include <QLabel>
#include <QWidget>

namespace ng::app {

/// The stages by their number, which is their key; they are shown in the order of the work.
namespace stage {
enum Index {
    cable,
    duty,
    accessory,
    fit,
    cutbacks,
    verdict,
    shape,
    work,
    report,
    faults,
    tolerance,
    record,
    trainer
};
/// Its key: the digits in their order, then letters.
QString key(int index);
} // namespace stage

enum class StageState { to_do, look, holds, falls_short };
QString stage_word(StageState state);
/// Filled square, half ring, triangle or open ring for a verdict.
StageState stage_state(Status status);
QColor colour_of(StageState state, const draw::Theme& theme);
/// Open ring, half ring, filled square, triangle.
void paint_stage_mark(QPainter& painter, const QRectF& box, StageState state, const draw::Theme& theme);

class StageButton : public QAbstractButton {
    Q_OBJECT
  public:
    /// `way`: to it, by key.
    StageButton(Session& session, const QString& title, const QString& way, QWidget* parent);
    /// `brief`: what of the word stands in the list; as it is where there is none.
    void set_state(StageState state, const QString& word, const QString& brief = {});
    QString shown_word() const { return brief_.isEmpty() ? word_ : brief_; }
    double room_for_word() const { return width() - 38; }
    void set_word_shown(bool shown); ///< else only the title stands: the word is in the tool tip
    StageState state() const { return state_; }
    QSize sizeHint() const override { return {128, 40}; }
    static constexpr int height_px = 37, low_px = 23; ///< with its word, and without

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Session& session_;
    StageState state_ = StageState::to_do;
    QString word_, brief_, way_;
    bool word_shown_ = true;
};

class StageList : public QWidget {
    Q_OBJECT
  public:
    explicit StageList(Session& session, QWidget* parent = nullptr);
    void choose(int index);
    StageButton* button(int index) const { return buttons_.at(index); }
    int count() const { return static_cast<int>(buttons_.size()); }
    QSize minimumSizeHint() const override;

  signals:
    void chosen(int index);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void refresh();
    static void show_status(StageButton* button, Status status);
    Session& session_;
    QList<StageButton*> buttons_;
    QList<QLabel*> headings_;
};

} // namespace ng::app
