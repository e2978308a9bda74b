#pragma once
#include "app/stages/page.h"
#include <QCheckBox>
#include <QTableWidget>
#include <map>

namespace ng::app {

/// Stage Cable: layer by layer, with derived and measured diameters and what the cable does electrically.
class CablePage : public Page {
    Q_OBJECT
  public:
    CablePage(Session& session, QWidget* parent);

  private:
    void add_choice_of_cable();
    void add_conductor();
    void add_insulation();
    void add_screens_and_jacket();
    void add_diameters();
    void connect_fields();
    void refresh();
    void edit(const QString& what, const std::function<void(Cable&)>& change);
    void measure(int row, const QString& text);

    NameEdit* title_;
    QComboBox *armour_, *jacket_material_, *cores_, *which_, *size_, *conductor_, *stranding_, *insulation_,
        *class_, *level_, *metallic_;
    QuantityEdit *conductor_screen_, *thickness_, *screen_, *metallic_thickness_, *armour_thickness_,
        *bedding_, *jacket_;
    QCheckBox* strippable_;
    QTableWidget* layers_;
    QLabel *electrical_, *contradiction_, *overall_, *shared_;
    QPushButton* own_copy_;
    bool filling_ = false;
};

} // namespace ng::app
