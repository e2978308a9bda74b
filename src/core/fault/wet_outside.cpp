// The outside of a termination, wet and dirty from its earthed end upwards.
#include "accessory/wet_film.h"
#include "fault/site.h"

namespace ng {

NEEDLEGAUGE_FAULT(wet_outside, 66) {
    FaultKind k;
    k.id = "wet_outside";
    k.title = "wet, dirty outside";
    k.model =
        "A conductive film of this surface resistance on the outer surface, all round, from an earthed "
        "band at its lower end over this length of it; what is beyond is dry. No spark bridges it here: the "
        "wet test of the schedule has its own rule";
    k.size_words = "length";
    k.least_mm = 10;
    k.most_mm = 400;
    k.sheet_ohm = 1e7;
    k.inspection = {"eye", 10, 0.5, 0.97};
    k.rework =
        "With everything dead and earthed by those who may: wipe it clean and dry, look where the dirt "
        "comes from";
    k.source = "surface resistances of wet, polluted insulators, 1 to 100 Mohm: from memory";
    k.step = "sheds";
    k.put = [](FaultSite& site, const Fault& fault) -> Result<void> {
        if (site.z_is_given())
            return tl::unexpected(
                site.misfit("it begins at the earthed end", "Leave its distance from the screen edge out"));
        const auto& built = site.design().prepared.built;
        const auto film = wet_film(built, "", fault.size_mm);
        if (!film) return tl::unexpected(site.misfit(film.error().problem, film.error().remedy));
        if (!built.leakage_path)
            return tl::unexpected(site.misfit("nothing is asked of its surface", "Choose another kind"));
        const auto path = *built.leakage_path;
        site.add_film(film->outline(), site.sheet_ohm(fault), wet_film_thickness_mm, water_eps_r);
        site.add_earth(earthed_band(*film));
        // What is read along the surface is read along the film's air side where it is wet.
        auto contour = film->outer;
        contour.erase(contour.begin());
        contour.push_back(film->inner.back());
        site.lead_from_start(path, contour);
        return {};
    };
    return k;
}

} // namespace ng
