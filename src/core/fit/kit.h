// Kit tables and connector libraries: a user's CSV files; invented ones ship.
#pragma once
#include "accessory/family.h"
#include "io/csv.h"

namespace ng {

/// One size of one part (docs/kit-format.md).
struct KitSize {
    std::string part; ///< name of the part as in the section: "stress tube", "body"
    FitItem::Kind kind = FitItem::Kind::shrink;
    std::string size; ///< as printed on the bag
    closedform::ShrinkTube tube;
};

struct Connector {
    std::string id;
    std::string use;    ///< "lug" or "joint"
    std::string method; ///< "compression" or "shear-bolt"
    std::string material;
    double least_mm2 = 0, most_mm2 = 0;
    double bore_mm = 0, diameter_mm = 0; ///< diameter after crimping or shearing
    double length_mm = 0;                ///< of a joint connector; barrel depth of a lug
    std::string die;                     ///< compression: the die that its range asks for
    int crimps = 0;                      ///< or bolts, each side
};

Result<std::vector<KitSize>> read_kit_table(const std::string& text, const std::string& file);
Result<std::vector<Connector>> read_connectors(const std::string& text, const std::string& file);

} // namespace ng
