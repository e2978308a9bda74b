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
    /// A copy of this cable for the shown design, as one step; says where its duty is of another class.
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
    /// Writes them, then shows them; one that cannot be read is put aside first. Refuses what cannot be
    /// written: what was shown stays.
    Result<void> keep(std::vector<Cable> cables);
    bool kept(std::vector<Cable> cables); ///< the same; says why not
    void fill();
    int chosen() const;
    Session& session_;
    std::vector<Cable> cables_;
    bool damaged_ = false; ///< what lies on the disk could not be read
    QLineEdit* search_;
    QListWidget* list_;
    QPushButton *take_, *remove_;
};

} // namespace ng::app
