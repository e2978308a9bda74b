// What else is written down: parts, notes, files, other readings, and the faults that lie on the design with
// what was decided about them.
#pragma once
#include "app/model/recorder.h"
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>

namespace ng::app {

class RecordEntry : public QWidget {
    Q_OBJECT
  public:
    RecordEntry(Session& session, Recorder& recorder, QWidget* parent = nullptr);
    /// As if it were typed. False: it was refused, and said why.
    bool add(int kind, const QString& first, const QString& second);
    enum Kind { note, part, file, temperature, humidity, torque, crimps, fault };
    QComboBox* faults() { return faults_; }

  private:
    void choose(int kind);
    bool add_fault();
    Session& session_;
    Recorder& recorder_;
    QComboBox *kind_, *faults_, *decision_;
    QLineEdit *first_, *second_;
    QPushButton* add_;
};

} // namespace ng::app
