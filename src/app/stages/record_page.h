// Stage Record: what was built, tested and signed of the shown design, and whether the record verifies.
#pragma once
#include "app/model/recorder.h"
#include "app/stages/page.h"
#include <QLineEdit>
#include <QListWidget>

namespace ng::app {

class RecordEntry;
class TestWindow;
class TrendWindow;

class RecordPage : public Page {
    Q_OBJECT
  public:
    RecordPage(Session& session, Recorder& recorder, QWidget* parent);
    QString chain_words() const { return chain_->text(); }
    QString verdict_words() const { return verdict_->text(); }
    QListWidget* list() { return rows_; }
    RecordEntry* entry() { return entry_; }
    TestWindow* open_tests();
    TrendWindow* open_trends();
    Result<void> save_report(const QString& path);

  signals:
    void wants_steps();

  private:
    void refresh();
    void fill_verdict();
    void fill_varied();
    void begin();
    void correct_chosen();
    void sign();

    Recorder& recorder_;
    RecordEntry* entry_;
    QLabel *chain_, *verdict_, *differs_, *varied_, *open_, *signed_;
    QWidget* begin_box_;
    std::map<std::string, QLineEdit*> details_;
    QListWidget* rows_;
    QComboBox* closes_;
    QLineEdit* reason_;
    QPushButton *begin_, *copy_, *correct_, *sign_, *steps_, *tests_, *vary_;
};

} // namespace ng::app
