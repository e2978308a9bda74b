// Finding rows over all records of a folder, and how marks come out: control charts by who, tool, month or
// family.
#pragma once
#include "app/model/recorder.h"
#include "record/search.h"
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTableWidget>

namespace ng::app {

class TrendWindow : public QWidget {
    Q_OBJECT
  public:
    TrendWindow(Session& session, Recorder& recorder, QWidget* parent = nullptr);
    void set_folder(const QString& folder);
    void find();
    void chart();
    QLineEdit* words_field() { return words_; }
    QTableWidget* table() { return table_; }
    const Trends& trends() const { return trends_; }
    QString summary() const { return summary_->text(); }

  private:
    class Picture;
    Session& session_;
    Trends trends_;
    QLineEdit *folder_, *words_;
    QCheckBox *reworked_, *due_;
    QComboBox *mark_, *by_, *group_;
    QTableWidget* table_;
    QLabel* summary_;
    Picture* picture_;
};

} // namespace ng::app
