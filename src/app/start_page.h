// The first page: a new job from a cable in one row of choices, with the section drawing itself; recent jobs;
// the demo.
#pragma once
#include "app/model/session.h"
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>

namespace ng::app {

class StartPage : public QWidget {
    Q_OBJECT
  public:
    StartPage(Session& session, QWidget* parent);
    void set_recent(const QStringList& paths);
    /// The job as chosen. Refuses what cannot be built, by item.
    struct Chosen {
        Job job;
        PreparedDesign prepared;
    };
    Result<Chosen> chosen() const;
    QComboBox* choice(const QString& name) const { return findChild<QComboBox*>(name); }
    QPushButton* begin_button() { return begin_; }

  signals:
    void begun(const ng::Job& job);
    void wants_file(QString path);
    void wants_demo();
    void wants_other(); ///< a file that is not in the list

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    class Picture;
    void refresh();
    QComboBox* add_choice(class QHBoxLayout* row, const QString& label, const QStringList& words,
                          const QString& name);
    Session& session_;
    QComboBox *class_, *conductor_, *size_, *level_, *screen_, *family_;
    QListWidget* recent_;
    QLabel* says_ = nullptr;
    QPushButton* begin_;
    Picture* picture_;
};

} // namespace ng::app
