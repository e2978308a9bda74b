// How far the solution on screen is, in as many words as there is room for.
#pragma once
#include <QLabel>
#include <QRegularExpression>

namespace ng::app {

/// All of its words where they fit, else what stands before the first stop; the tool tip has the whole.
class StateLabel : public QLabel {
  public:
    StateLabel() {
        setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        setSizePolicy(QSizePolicy::Ignored,
                      QSizePolicy::Preferred); // it gives way: no word widens the window
    }
    void set_words(const QString& words) {
        words_ = words;
        setToolTip(words);
        setAccessibleName(words);
        fit();
    }

  protected:
    void resizeEvent(QResizeEvent* event) override {
        QLabel::resizeEvent(event);
        fit();
    }

  private:
    QString words_;
    void fit() {
        auto words = words_;
        if (fontMetrics().horizontalAdvance(words) > width())
            words.truncate(words.indexOf(QRegularExpression("[:;]|$")));
        setText(fontMetrics().elidedText(words, Qt::ElideRight, width()));
    }
};

} // namespace ng::app
