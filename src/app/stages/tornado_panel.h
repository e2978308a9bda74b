// What moves the design most: each quantity by itself to both ends of its tolerance, solved in the
// background.
#pragma once
#include "app/model/session.h"
#include "app/model/worker.h"
#include "study/worst.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace ng::app {

class TornadoPanel : public QWidget {
    Q_OBJECT
  public:
    TornadoPanel(Session& session, QWidget* parent);
    void run();
    const Tornado* tornado() const { return shown_ ? &shown_->tornado : nullptr; }
    Result<void> save(const QString& path) const; ///< SVG or CSV, by its ending

  signals:
    void finished();

  private:
    class Picture;
    struct Shown {
        StudyPlan plan;
        Tornado tornado;
    };
    void refresh(); ///< what was solved belongs to the design as it was
    void show_shown(std::shared_ptr<const Shown> shown);
    Session& session_;
    QLabel* words_;
    QPushButton *cancel_, *save_;
    Picture* picture_;
    std::shared_ptr<const Shown> shown_;
    std::string of_;
    Worker worker_;
    int run_ = 0;
};

} // namespace ng::app
