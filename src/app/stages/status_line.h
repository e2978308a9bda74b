// A judged sentence: mark by shape, title with the status word, and why.
#pragma once
#include "app/model/session.h"
#include <QWidget>

namespace ng::app {

class StatusLine : public QWidget {
    Q_OBJECT
  public:
    StatusLine(Session& session, const QString& title, Status status, const QString& why,
               QWidget* parent = nullptr);
    QString text() const { return title_ + ": " + why_; }
    Status status() const { return status_; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QSize sizeHint() const override { return {250, heightForWidth(280)}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Session& session_;
    QString title_, why_;
    Status status_;
};

} // namespace ng::app
