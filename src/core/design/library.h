// The data that ships with the product.
#pragma once
#include "accessory/family.h"
#include "cable/cable.h"
#include "duty/duty.h"
#include "fit/kit.h"
#include "material/material.h"
#include "verdict/limits.h"
#include <filesystem>

namespace ng {

struct Library {
    std::filesystem::path folder;
    std::string version; ///< of the data, such as "2026-11"
    FamilyTable families = FamilyTable::shipped();
    MaterialTable materials;
    CableTables cables;
    std::vector<StandardsPack> standards;
    LimitTable limits;
    std::vector<KitSize> kits;
    std::vector<Connector> connectors;
    std::vector<BodyDrawing> drawings; ///< bodies that ship, *.ngbody
};

/// Where the data is: NEEDLEGAUGE_DATA, else ../share/needlegauge beside the running program (/proc/self/exe:
/// however it was started), else, of a program that is not installed, the source tree it was built from.
std::filesystem::path data_folder();
Result<Library> load_library(const std::filesystem::path& folder);

/// The only kit table and connector library in use are those loaded: a user's own replace what ships.
Result<void> load_kit_table(Library& library, const std::filesystem::path& path);
Result<void> load_connectors(Library& library, const std::filesystem::path& path);

} // namespace ng
