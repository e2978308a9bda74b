// A study of the design on screen: begun by a button, solved in the background, then a picture and what it
// says. What was found belongs to the design as it was.
#pragma once
#include "app/model/session.h"
#include "app/model/time_left.h"
#include "app/model/worker.h"
#include "app/stages/page.h"
#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace ng::app {

class StudyPanel : public QWidget {
    Q_OBJECT
  public:
    void run();
    void pause() { running_.pause->click(); } ///< or goes on
    void cancel() { running_.cancel->click(); }
    bool is_running() const { return !running_.cancel->isHidden(); }
    QString said() const; ///< as it stands there, with plain spaces
    /// SVG or CSV, by its ending. Refuses while nothing is solved, and where it is no file of its own.
    virtual Result<void> save(const QString& path) const;

  signals:
    void finished(); ///< with a picture, or with words of why there is none

  protected:
    struct Words {
        QString button, about;
        QString first, progress; ///< while it is solved; "%1 of %2 cables solved"
        QString again;           ///< what to do when the design has changed
        QString file;            ///< its usual name, without an ending; empty: it is not saved
    };
    /// On the interface's thread: keeps what was found and says it.
    using Show = std::function<QString()>;
    /// What the work says of itself, from any of its threads.
    struct Progress {
        std::function<void(int done, int all)> tell;
        std::function<void(Show)> found; ///< so far
        void operator()(int done, int all) const { tell(done, all); }
    };
    /// On a thread of its own.
    using Solve = std::function<Result<Show>(const CancelFlag& cancel, const Progress& progress)>;

    StudyPanel(Session& session, Words words, QWidget* parent);
    virtual std::string solved_of() const { return session_.design_hash(); }
    virtual Solve solve() = 0; ///< with copies of all it needs
    virtual void forget() {}
    virtual void paint(QPainter&, const QRectF&) {}
    void show_picture(int height_px, const QString& name); ///< 0: none
    Session& session_;

  private:
    class Picture;
    void refresh();
    void stop(const QString& words);
    void say(const QString& state); ///< before what was found
    void tell(int done, int all);
    Words said_;
    QString found_;
    QLabel* words_;
    QPushButton* save_;
    Picture* picture_;
    std::string of_;
    Worker worker_;
    RunRow running_;
    std::optional<TimeLeft> left_;
    std::pair<int, int> done_;
    int run_ = 0;
};

} // namespace ng::app
