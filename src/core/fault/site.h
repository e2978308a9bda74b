// What a kind of fault may ask of the section: where the screen edge of a side lies, what is at a point, and
// how a shape with its material, part and gap is put in.
#pragma once
#include "fault/fault.h"
#include "section/on_top.h"

namespace ng {

class FaultSite {
  public:
    /// Refuses a side that the design does not have, by the fault's title.
    static Result<FaultSite> of(FaultyDesign& design, const Fault& fault, int number, const FaultKind& kind);

    double radius() const { return radius_; } ///< over the insulation
    double z() const { return z_; }           ///< of the fault's middle
    double edge_z() const { return edge_; }
    double towards() const { return towards_; } ///< +1: the live end lies towards +z
    double width() const { return width_; }
    InputError misfit(const std::string& problem, const std::string& remedy) const;
    /// Name of what is at a point; empty: nothing.
    std::string at(Point p) const;
    bool is_electrode(const std::string& name) const;
    /// The region at a point is a solid that can hold a void.
    bool is_solid(Point p) const;
    /// Permittivity of the region at a point; 1 where there is none.
    double eps_at(Point p) const;

    PlaceId place() const { return place::fault.number(number_); }
    /// Refuses what reaches so far to either side, and with it under the screen or past the insulation's end.
    Result<void> needs_bare_insulation(double half_mm) const;
    /// Cuts a groove into the insulation: its bottom from the lesser z to the greater, from surface to
    /// surface. Paths along the surface are led down it. Refuses one that is deeper than the insulation.
    Result<void> cut_groove(const std::vector<Point>& bottom, double depth_mm, const std::string& filling,
                            const std::string& words);
    /// Puts in a region with the fault's filling (or another), and its part for pictures.
    void add_region(const Outline& outline, const std::string& filling);
    /// The same just over another region: what is painted after that one stays.
    void add_region_over(const std::string& region, const Outline& outline, const std::string& filling);
    /// A path along which the gap of an air body is read, in its region.
    void add_gap(const std::vector<Point>& along, const std::string& words, double eps_around,
                 double diameter_mm);
    void add_electrode(const Outline& outline, double voltage_kV, bool floating);
    FaultyDesign& design() { return *design_; }

  private:
    void lead_surface_along(const std::vector<Point>& contour);

    FaultyDesign* design_ = nullptr;
    const FaultKind* kind_ = nullptr;
    int number_ = 1;
    Side side_ = Side::none;
    double radius_ = 0, conductor_ = 0, z_ = 0, edge_ = 0, insulation_end_ = 0, towards_ = 1, width_ = 0;
};

/// Half an ellipse on a surface of this radius, from the lesser z to the greater: `height` above it (below it
/// where negative), `length` along.
std::vector<Point> lens_points(double radius, double z, double height, double length);

} // namespace ng
