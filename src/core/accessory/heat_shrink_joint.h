// The lay-up that heat-shrink joints share: straight, branch and transition.
#pragma once
#include "accessory/lay_up.h"
#include "accessory/parameters.h"

namespace ng {

/// All parameters of a heat-shrink joint from the cutbacks outwards.
void add_heat_shrink_joint_parameters(ParameterList& list);

/// What a kind of joint adds to the common lay-up.
struct HeatShrinkJointSteps {
    /// When cables, connector and its cover are laid, before mastic and tubes; may refuse.
    std::function<Result<void>(LayUp&, const ParameterValues&, const CableEnd& a, const CableEnd& b)>
        before_tubes = {};
    std::vector<CheckRequest> more_checks = {};
    /// What side B is, where it is not as side A.
    std::function<void(const ParameterValues&, CableEnd& b)> prepare_b = {};
    /// Side B has a layer of its own over its screen edge: no mastic on it, and no check of the joint's.
    bool edge_of_b_is_covered = false;
    /// Last, when everything else is laid.
    std::function<Result<void>(LayUp&, const ParameterValues&, const CableEnd& a, const CableEnd& b)> at_end =
        {};
};

Result<BuiltAccessory> build_heat_shrink_joint(const DesignContext& context,
                                               const HeatShrinkJointSteps& steps = {});

} // namespace ng
