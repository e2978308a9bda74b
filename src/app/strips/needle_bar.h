// The needle's read-out: where it stands, the layers there, and the field on every path.
#pragma once
#include "app/model/session.h"
#include <QWidget>

namespace ng::app {

class NeedleBar : public QWidget {
    Q_OBJECT
  public:
    explicit NeedleBar(Session& session, QWidget* parent = nullptr);
    /// The read-out as one line of text, for copying and for assistive technology.
    QString text() const;

    /// A column as it is painted: in letters small enough for its room, the last words left out where even
    /// the smallest are too large.
    struct Shown {
        QString head, words;
        QFont font;
        QRectF room; ///< of the words
    };
    std::vector<Shown> shown() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Column {
        QString head, body;
    };
    std::vector<Column> columns() const;
    void refresh();
    Session& session_;
    std::vector<Column> columns_; ///< as last read: by the change of what they hang on
};

} // namespace ng::app
