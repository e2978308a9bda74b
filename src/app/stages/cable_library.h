// The firm's cables, kept beside the settings: taken into a job as copies, put in from one, imported and
// exported.
#pragma once
#include "app/model/session.h"
#include <QDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

namespace ng::app {

class CableLibrary : public QDialog {
    Q_OBJECT
  public:
    CableLibrary(Session& session, QWidget* parent);
    static QString path();
    const std::vector<Cable>& cables() const { return cables_; }
    /// A copy of this cable for the shown design, as one step; the class of its duty is proposed where it is
    /// another.
    bool take(int index);
    /// The cable of the shown design; in place of one of its id.
    bool put_in();
    bool remove(int index);
    /// Adds those of a file; one of the same id is replaced. Refuses by item.
    Result<int> import(const QString& path);
    Result<void> export_to(const QString& path) const;
    void search(const QString& words);
    QListWidget* list() { return list_; }

  private:
    bool save();
    void fill();
    int chosen() const;
    Session& session_;
    std::vector<Cable> cables_;
    QLineEdit* search_;
    QListWidget* list_;
    QPushButton *take_, *remove_;
};

} // namespace ng::app
