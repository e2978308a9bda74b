// The numbers that steer meshes, readings and errors, in one place, each with what it trades against what.
// All were measured on the reference sections, the demo designs and random changes of them
// (scripts/error-honesty; docs/verification.md has the table that they give). None has a unit: lengths scale
// with the section.
#pragma once
#include <numbers>

namespace ng::tuning {

// The first mesh. Finer: fewer passes, but more unknowns where nothing needed them.
constexpr double arc_step_rad = std::numbers::pi / 16;        ///< longest chord angle on arcs
constexpr double coarse_arc_step_rad = std::numbers::pi / 14; ///< the same while a hand moves
constexpr double growth = 0.55; ///< mm of edge length per mm away from a fine place
constexpr double coarse_growth = 0.6;
constexpr double largest_share = 0.1; ///< longest edge over the section's diagonal
constexpr double coarse_largest_share = 1.0 / 8;
constexpr double path_point_share = 1.0 / 60; ///< edge length at a path's points over its length
constexpr double coarse_path_point_share = 1.0 / 40;
constexpr double path_share = 1.0 / 40; ///< along it
constexpr double coarse_path_share = 1.0 / 20;
constexpr double probe_share = 1.0 / 450; ///< at a probe, of the section's diagonal
constexpr double corner_share = 0.15;     ///< of the reach of a corner beside a path
constexpr double weak_corner_share = 1.0; ///< where the field grows slowly
constexpr double coarse_corner_share = 2.0;
constexpr double sharp_tip = 0.6, sharp_tip_share = 1.0 / 15; ///< order of a tip; of its reach, where short

// Marking. A larger share: fewer passes and a change that tells more of the error, but a larger last mesh.
constexpr double first_marked_share = 0.8; ///< of the indicator, before errors are known
constexpr double marked_share = 0.85;      ///< and after
constexpr double most_marked = 0.4;        ///< of all triangles: about a tripling of the unknowns
constexpr double halved = 0.55; ///< wanted over present size; the mesher's edges come out a little shorter
constexpr double asked_over_wanted =
    1.36;                            ///< where a mesh is made anew: its edges come out shorter than asked for
constexpr double guess_weight = 0.6; ///< of the roughness on the first mesh, for the sizes of the second
constexpr double least_share =
    1e-8; ///< of the section's diagonal: smaller triangles are not divided, rounding says more than they
constexpr double least_factor = 0.3; ///< of one pass, where a reading is known to be far off
constexpr double forced_aim = 0.5;   ///< of the goal: what the new size of such places aims at
constexpr double forced_above = 0.4; ///< of the goal: samples with a larger error force their own triangles
constexpr double corner_share_of_distance = 0.7; ///< size wanted at a place over its distance from a corner
constexpr double first_of_budget = 0.7, later_of_budget = 0.5; ///< of unknowns: a mesh of more is not refined
constexpr double enough_left = 0.5; ///< of the goal: indicators that sum up to less are left as they are
constexpr double content_below =
    0.3; ///< of the goal: figures with a smaller error ask nothing more of the mesh

/// How much a figure with this error still asks of the mesh.
constexpr double urgency(double relative_error, double goal) {
    const double share = relative_error < goal ? relative_error / goal : 1;
    return share < content_below ? 0 : share * share;
}

// Errors of fields and potentials. Larger: surer to cover the true error, further above it.
constexpr double best_rate = 0.4,
                 worst_rate = 0.5;  ///< trusted bounds of error(fine) / error(coarse): what changed may have
                                    ///< come from elsewhere, where sizes fell by less
constexpr double corner_rate = 0.6; ///< the same beside a corner
constexpr double best_decay = 0.1;  ///< of an older estimate, with the square of the size
constexpr double potential_rate = 0.65;
constexpr double roughness_weight = 1.8; ///< of what the elements themselves miss
constexpr double roughness_of_potential = 0.05;
constexpr double across_share = 0.03; ///< of the field, where one element spans a layer: no neighbour tells
constexpr double corner_sizes = 3;    ///< within so many sizes of a corner errors fall more slowly
constexpr double window_sizes =
    1.5; ///< half width, in local sizes, of the stretch whose largest change counts
constexpr double window_of_edge = 0.1; ///< the same of an edge, of its sweep
constexpr double least_of_path =
    0.04; ///< no peak of a path is taken for better than this share of its worst sample
constexpr double shared_of_path = 0.4; ///< samples: of what a path's worst has more than they
/// What of a sample's error is its own, not shared with the path's worst: what its mesh is asked for.
constexpr double own_error(double error, double worst) {
    const double own = (error - shared_of_path * worst) / (1 - shared_of_path);
    return own > 0 ? own : 0;
}
constexpr double sample_weight = 1.1, peak_weight = 0.5, edge_weight = 0.47; ///< of the largest so found
constexpr double inside_share = 0.55;     ///< of errors inside a region: probes
constexpr double pollution_weight = 0.07; ///< of (1 - k) (h / d)^2k, at the distance d from a corner's tip
constexpr double least_pollution = 5e-5;  ///< less is not looked for
constexpr double missed_at_tip =
    0.47; ///< times (1 - k)^2: of what triangles at a corner's tip hold, what is missed
constexpr double missed_weight = 1.5;    ///< of its share of the whole, for fields
constexpr double first_pollution = 1e-3; ///< of corners on paths, by the first mesh: finer tips cost little
constexpr double leftover_weight =
    0.012; ///< of the indicator of triangles that the last pass left as they were
constexpr double leftover_of_all =
    0.04; ///< more of it, with its share of the whole indicator: nothing has tested it

/// Nothing that is read is claimed to be better known than this share of itself, or of the goal: what is
/// recovered from a mesh wavers by about so much. Potentials waver less than fields.
constexpr double reading_floor = 1.2e-4, floor_of_goal = 0.2, potential_floor_share = 0.5;
constexpr double followed_edges = 3; ///< followed meshes: edges, of their error where the mesh was made
constexpr double followed_enough =
    4; ///< of the goal: what a followed mesh may miss it by; its error is stated
constexpr double speaks_for_peak = 0.97; ///< edges: places with at least this share of a peak give its error

// Errors of charges, currents, energy, losses.
constexpr double residual_weight =
    0.25; ///< of height times residual inside a triangle, beside the averaging estimate: tells
          ///< where no neighbour does, as in a layer of one element
constexpr double integral_rate = 0.5; ///< error(fine) / error(coarse) while only one change is known
constexpr double integral_best = 0.45, integral_worst = 0.75; ///< trusted bounds of it where two changes tell
constexpr double integral_decay = 0.2;                        ///< of an older estimate
constexpr double integral_floor = 1e-5;                       ///< nothing is claimed to be better known
constexpr double law_loss_share = 0.5;     ///< of the fields' relative error: losses of laws of the field
constexpr double free_charge_weight = 2.5; ///< of those: a jump of two fields on a border, far less smooth
/// Of the product of the errors of state and adjoint, summed up with and without sign, and of what the change
/// tells. Charges, whose product may be a square, need more: on coarse meshes both factors miss something.
/// What is missed at the tips of corners, of which averaging tells least, counts by itself, without sign.
struct ProductWeights {
    double with_sign, absolute, tips;
};
constexpr ProductWeights of_charges{2.1, 0.5, 1.2}, of_other_figures{1.25, 0.18, 1.1},
    of_potentials{1.25, 0.18, 0.5};
constexpr double change_beside_product = 0.045;
constexpr double change_beside_charge = 0.015; ///< the product without sign tells more of charges
constexpr double change_beside_dc_charge = 1;  ///< the field is the conduction's: further from the charge
/// The same of fields of probes, which are recovered.
constexpr double probe_signed_weight = 1.7, probe_tips_weight = 0.5, change_beside_probe = 0.18;
/// Of the largest field and voltage of the section: no probe is claimed to be better known inside what
/// conducts well, or holds so many times the displacement, where both are what larger ones leave; elsewhere
/// less of it.
constexpr double nil_field_share = 3e-5, nil_potential_share = 1e-5, nil_contrast = 30;
constexpr double nil_charge_share = 1e-8, ///< of the largest charge: no part is claimed to be better known
    nil_loss_share = 1e-5; ///< of all losses: what a sharp step takes is read from elements round its corner
constexpr double contact_weight = 0.25;  ///< of what lies at points where conductors meet
constexpr double body_flux_weight = 0.3; ///< of what the elements round a good conductor miss: its current
/// Of what lies where a border ends on a third region: which of the borders it counts to hangs on the mesh.
constexpr double border_end_weight = 1;

// Time stepping.
constexpr double slowest_over_end = 0.3; ///< of what a linear relaxation's states are asked for, over 1 / end
constexpr double widest_range_of_rates = 1e12; ///< the fastest over the slowest
constexpr double ratio_of_rates = 1.4678;      ///< of one candidate to the next: six a decade
constexpr int most_states = 60;
constexpr double rounding_of_states = 1e-11; ///< of the residual's terms: less is what their factors leave
constexpr double new_of_state = 1e-10;       ///< a state of which less is new tells nothing
constexpr double states_of_tolerance = 0.1;  ///< aimed at in the norm of energy: places see more
constexpr double states_left_out = 0.15;     ///< share of the states without which the course is run again
constexpr double left_out_weight = 3;        ///< of what they change, times what the bound fell by with them
constexpr double instants_growth = 1.12;     ///< of the times recorded after a break
constexpr double first_instant = 0.02;       ///< of them, over the fastest time constant
constexpr double integrator_share = 0.003;   ///< tolerance of a step over the goal, to begin with
constexpr double least_tolerance = 1e-10;
constexpr double repeats_of_tolerance = 40; ///< how nearly cycles repeat, over the tolerance of a step
constexpr double loose_over_tight = 10;   ///< a second run on the coarser mesh tells what the integrator adds
constexpr double steps_of_tolerance = 10; ///< and it is taken to add no less than so many tolerances
constexpr double most_stepping = 0.5; ///< of the goal: more of the integrator asks for a smaller tolerance
constexpr double stepping_aim = 0.3;  ///< of the goal: what that tolerance aims at
constexpr double least_tightening = 1e-3; ///< of the tolerance, at once
constexpr double least_growth = 1.03;     ///< of a mesh: one that grew less has nothing left to give
constexpr double stepping_weight =
    0.3; ///< of what ten times the tolerance changes: its error falls a little less than that

// Floors: a figure smaller than this share of the largest of its kind is held to the floor's accuracy.
constexpr double screened_floor = 4e-3;  ///< paths and edges: of the largest field that is read
constexpr double field_floor = 0.02;     ///< probes: of the largest field that is read
constexpr double potential_floor = 0.05; ///< potentials of probes: of the largest voltage
constexpr double charge_floor = 0.01;    ///< charges and currents of conductors, capacitances: of the largest
constexpr double part_floor = 0.05; ///< free charges: of the largest charge; losses of regions: of all losses

} // namespace ng::tuning
