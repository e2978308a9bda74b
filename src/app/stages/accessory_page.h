#pragma once
#include "app/stages/page.h"
#include <map>

namespace ng::app {

/// Stage Accessory: the parameters of the design's family, made from their descriptions.
class AccessoryPage : public Page {
    Q_OBJECT
  public:
    AccessoryPage(Session& session, QWidget* parent);
    /// The field of a parameter, for tests and for "take me there".
    QWidget* field(const std::string& key) const;

  private:
    void make_fields();
    void refresh();

    QLabel *family_, *derived_, *note_;
    QLineEdit* title_;
    std::map<std::string, QuantityEdit*> numbers_;
    std::map<std::string, QComboBox*> choices_;
    std::string shown_family_;
};

} // namespace ng::app
