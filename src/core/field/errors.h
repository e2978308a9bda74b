// The error of every figure of a solution, from the same figures on a coarser mesh.
//
// What is taken as the error of the finer mesh is what the change leaves by Richardson's extrapolation, with
// a rate that the local sizes support and no better than `tuning` trusts; never less than an older estimate
// decays to (a change can be small by accident); the largest over a stretch of a few elements (a mesh's
// errors are as good as random along a line); and on top a share of the indicator of the triangles that the
// last pass left as they were, in which nothing could change.
//
// Not good for: meshes of which the finer is not finer wherever its indicator says that it matters; solutions
// that have not entered the range in which their errors fall at all.
#pragma once
#include "field/readings.h"

namespace ng {

/// |difference| of the field (as vectors, phasors as complex ones) and of the potential at every place.
PlaceErrors changes(const PlaceFields& before, const PlaceFields& now);

/// The errors on the finer mesh, place by place, from the changes; `earlier`: those on the coarser mesh, or
/// null; `roughness`: of the field on the finer mesh (Readings::roughness).
PlaceErrors errors_after(const PlaceErrors& changes, const PlaceErrors* earlier,
                         const std::vector<double>& roughness, const Readings& before, const Readings& now);

/// Writes the errors of samples, paths, edges and probes into `solution`. `left_over`: what may come from
/// triangles that were left as they were, relative; `largest_kV`: of the section, for what rounding does.
/// `stepping`: what the integrator adds at every place, or null; it is no error of a mesh, and counts as it
/// is.
void write_errors(const Readings& readings, const PlaceErrors& errors, const PlaceErrors* stepping,
                  double left_over, double largest_kV, Solution& solution);

/// Writes the errors of conductors, energy, losses, interface charges and capacitances from their change.
/// Their errors are smooth in the mesh, so that where the mesh was made finer everywhere twice the two
/// changes tell the rate. `finer_all`: whether it was; else only the places that needed it were, and older
/// errors stay.
void write_integral_errors(const Solution& before, bool finer_all, double left_over, Solution& now);

/// The largest field that is read anywhere, kV/mm; edges and probes that are not judged do not count.
double largest_field(const Solution& solution);
/// The field below which paths and edges are held to the accuracy of this field, kV/mm; 0 in time, where what
/// a layer that conducts still has of a field is what is asked for.
double screened_field(const Solution& solution);
/// In time: charges of interfaces are what the fields on both sides leave, at the end of all steps. To their
/// change between two meshes, which may be small by accident, comes the relative error of the fields.
void cover_free_charges(Solution& solution);
/// In time: fields at the end, of DC also just after it, hang on one instant: at least their change from the
/// coarser mesh, and the error of the path relative to its peak.
void cover_end_states(const Solution& before, Solution& now);
/// Greatest relative error of all that the goal holds (SolveReport::worst_error); NaN where a figure is not
/// finite.
double worst_error(const Solution& solution, const Slack& slack = {});
/// Of paths, edges and probes alone.
double worst_reading_error(const Solution& solution, const Slack& slack = {});
/// States an error of 100 % for all that worst_integral_error() holds: nobody asked for it.
void forget_integrals(Solution& solution);
/// Of charges, currents, energy, losses and capacitances alone.
double worst_integral_error(const Solution& solution);

} // namespace ng
