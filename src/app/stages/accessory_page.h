#pragma once
#include "app/stages/page.h"
#include <map>

namespace ng::app {

/// A planar section of the shown design with its equipotentials.
class AcrossPicture : public QWidget {
    Q_OBJECT
  public:
    AcrossPicture(Session& session, std::size_t index, QWidget* parent);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Session& session_;
    std::size_t index_;
};

/// Stage Accessory: the family, the cables, and the parameters made from the family's descriptions.
class AccessoryPage : public Page {
    Q_OBJECT
  public:
    AccessoryPage(Session& session, QWidget* parent);
    /// The field of a parameter, for tests and for "take me there".
    QWidget* field(const std::string& key) const;
    /// Asks what is what in a DXF drawing, and takes the body into the job and the design.
    void import_drawing(const QString& file);

  private:
    void change_family(const Family& family);
    void make_fields();
    void refresh();

    QLabel* note_;
    QLabel* derived_ = nullptr;
    NameEdit* title_;
    QComboBox *family_, *other_cable_, *drawing_;
    QFormLayout* design_form_;
    int drawing_row_; ///< and the next: only of families that are made from a drawing
    std::vector<std::string> drawing_ids_;
    QWidget* fields_ = nullptr; ///< made anew when the family changes
    std::map<std::string, QuantityEdit*> numbers_;
    std::map<std::string, QComboBox*> choices_;
    std::string shown_family_;
    std::size_t shown_across_ = 0;
};

} // namespace ng::app
