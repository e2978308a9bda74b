// How far the solution on screen is, in as many words as there is room for.
#pragma once
#include <QLabel>
#include <QPainter>
#include <QRegularExpression>

namespace ng::app {

/// All of its words where they fit, else what stands before the first stop; the tool tip has the whole. They
/// change while a hand moves, so no word of them asks the window to be laid out again.
class StateLabel : public QLabel {
  public:
    StateLabel() {
        setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        setSizePolicy(QSizePolicy::Ignored,
                      QSizePolicy::Preferred); // it gives way: no word widens the window
    }
    void set_words(const QString& words) {
        if (words == words_) return;
        words_ = words;
        setToolTip(words);
        setAccessibleName(words);
        update();
    }
    /// What there is room for.
    QString shown() const {
        auto out = words_;
        if (fontMetrics().horizontalAdvance(out) > width())
            out.truncate(out.indexOf(QRegularExpression("[:;]|$")));
        return fontMetrics().elidedText(out, Qt::ElideRight, width());
    }
    QSize sizeHint() const override { return {0, fontMetrics().height()}; }
    QSize minimumSizeHint() const override { return sizeHint(); }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.drawText(rect(), static_cast<int>(alignment()), shown());
    }

  private:
    QString words_;
};

} // namespace ng::app
