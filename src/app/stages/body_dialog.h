// Takes a moulded body from a drawing: which layer is what, the unit where the drawing does not say it, and
// on which of its axes the cable's lies; what is understood is drawn beside.
#pragma once
#include "document/body_drawing.h"
#include "draw/theme.h"
#include "io/dxf_reader.h"
#include <QDialog>
#include <map>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace ng::app {

class BodyDialog : public QDialog {
    Q_OBJECT
  public:
    BodyDialog(const QString& file, const draw::Theme& theme, QWidget* parent);
    const BodyDrawing& result() const { return body_; }

  private:
    void read();
    void understand();
    void take();
    DxfReadOptions options() const;
    /// Of the layers that are shown.
    std::map<std::string, BodyRole> roles() const;
    QString file_;
    DxfProfiles profiles_;
    BodyDrawing body_;
    std::vector<Outline> rest_;              ///< profiles that are left out
    std::map<std::string, BodyRole> chosen_; ///< by layer
    bool is_read_ = false;
    QLineEdit* title_;
    QComboBox *unit_, *axis_;
    QTableWidget* layers_;
    QLabel *problem_, *said_;
    QWidget* picture_;
    QPushButton* take_;
};

} // namespace ng::app
