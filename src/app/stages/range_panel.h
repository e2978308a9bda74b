// The kit over the cables that it may be put on, as a map, solved in the background.
#pragma once
#include "app/model/session.h"
#include "app/model/worker.h"
#include "study/range.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace ng::app {

class RangePanel : public QWidget {
    Q_OBJECT
  public:
    RangePanel(Session& session, QWidget* parent);
    void run();
    const std::optional<RangeMap>& map() const { return map_; }

  signals:
    void finished();

  private:
    class Picture;
    void refresh(); ///< what was mapped belongs to the design as it was
    Session& session_;
    QLabel* words_;
    QPushButton* cancel_;
    Picture* picture_;
    std::optional<RangeMap> map_;
    std::string of_;
    Worker worker_;
    int run_ = 0;
};

} // namespace ng::app
