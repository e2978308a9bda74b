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
    double wall() const { return radius_ - conductor_; } ///< of the insulation
    /// The flank of the pencil on this side, from the insulation's surface to its foot; none: it has none.
    std::optional<std::pair<Point, Point>> pencil() const;
    /// z of the connector's end on this side; none: the design has no connector.
    std::optional<double> connector_end_z() const { return connector_end_; }
    /// The outermost live metal or conductive part at z, its name and its radius there; none: there is none.
    struct Surface {
        std::string electrode;
        double radius = 0, voltage_kV = 0;
    };
    std::optional<Surface> live_surface_at(double z) const;
    /// The radii between which this electrode is seen at z; none: it is not.
    std::optional<std::pair<double, double>> electrode_at(const std::string& name, double z) const;
    /// Whether a conductive part lies on the insulation anywhere between, or touches what is laid there.
    bool is_electrode_between(double z0, double z1, double thickness_mm) const;
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
    /// surface. Paths along the surface are led down it, and what is asked of them keeps its place; `judged`:
    /// the groove's own surface is judged as the interface that it is, else only its air. Refuses one that is
    /// deeper than the insulation.
    Result<void> cut_groove(const std::vector<Point>& bottom, double depth_mm, const std::string& filling,
                            const std::string& words, bool judged);
    /// Puts in a region with the fault's filling (or another), and its part for pictures.
    void add_region(const Outline& outline, const std::string& filling);
    /// The same just over another region: what is painted after that one stays.
    void add_region_over(const std::string& region, const Outline& outline, const std::string& filling);
    /// The same over whatever is there, electrodes too.
    void add_region_over_all(const Outline& outline, const std::string& filling);
    /// Only for pictures: it is not in the section.
    void draw_only(const Outline& outline);
    /// An electrode's edge of this fault, held against what edges may have: `worse` times what is solved.
    void add_edge_check(const PlaceId& edge, const std::string& title, double worse);
    void add_air(AirBody body) { design_->air.push_back(std::move(body)); }
    void add_note(std::string words) { design_->notes.push_back(std::move(words)); }
    PlaceId insulation_surface() const { return place::insulation_surface.on(side_); }
    /// A path along which the gap of an air body is read, in its region.
    void add_gap(const std::vector<Point>& along, const std::string& words, double eps_around,
                 double diameter_mm);
    void add_electrode(const Outline& outline, double voltage_kV, bool floating);
    /// A conductive film on the insulation, its middle at z(): floating, or with the surface resistance that
    /// the fault gives or that is usual for it. Refuses what is there already, and one that is not longer
    /// than twice its thickness.
    Result<void> put_film(const Fault& fault, double thickness_mm);
    /// Surface resistance of the fault's film, ohm per square: its own or the kind's usual; 0: a conductor.
    double sheet_ohm(const Fault& fault) const { return fault.sheet_ohm.value_or(kind_->sheet_ohm); }
    /// A region that conducts: ohm per square, over its thickness.
    void add_film(const Outline& outline, double sheet_ohm, double thickness_mm, double eps_r);
    /// Earthed metal that comes with the fault.
    void add_earth(Electrode electrode);
    /// Leads the paths along the insulation's surface along this instead, between its ends, which lie on
    /// them; what is asked of them keeps its place. `judged`: this stretch too is judged as the interface
    /// that it is.
    void lead_surface_along(const std::vector<Point>& contour, bool judged);
    /// Leads a path from its start along this, whose last point lies on it.
    void lead_from_start(const PlaceId& path, const std::vector<Point>& contour);
    /// By which the fault is dragged along the cable.
    void add_handle();
    bool z_is_given() const { return z_is_given_; }
    FaultyDesign& design() { return *design_; }

  private:
    /// Puts in a region just over another (none: over all), and its part for pictures.
    void put_region(const std::string& over, const Outline& outline, const std::string& material,
                    const std::string& hatch);
    /// Takes `contour` into the path between s0 and s1; checks and gaps of it move along.
    void replace_stretch(Path& path, double s0, double s1, const std::vector<Point>& contour, bool judged);

    FaultyDesign* design_ = nullptr;
    const FaultKind* kind_ = nullptr;
    int number_ = 1;
    Side side_ = Side::none;
    std::optional<double> connector_end_;
    bool z_is_given_ = false;
    double radius_ = 0, conductor_ = 0, z_ = 0, edge_ = 0, insulation_end_ = 0, towards_ = 1, width_ = 0;
};

/// A film on a surface of this radius, `height` thick, its ends bevelled by as much.
std::vector<Point> film_points(double radius, double z, double height, double length);

/// A conductive film with rounded ends; the ends are named where a name is given.
Outline conductive_film(double radius, double z0, double z1, double thickness, const std::string& left = {},
                        const std::string& right = {});

/// Half an ellipse on a surface of this radius, from the lesser z to the greater: `height` above it (below it
/// where negative), `length` along.
std::vector<Point> lens_points(double radius, double z, double height, double length);

} // namespace ng
