// Faults that are no matter of the field: a rule with its reason.
#include "fault/fault.h"

namespace ng {
namespace {

FaultKind of_rule(const char* id, const char* title, FaultDecision decision, const char* why,
                  const char* means, const char* rework, const char* step) {
    FaultKind k;
    k.id = id;
    k.title = title;
    k.model = "No field: a rule";
    k.inspection = {means, 0, 0.5, 0.97};
    k.rework = rework;
    k.source = "common practice, no source";
    k.step = step;
    k.rule = {decision, why};
    return k;
}

} // namespace

NEEDLEGAUGE_FAULT(wrong_class, 100) {
    return of_rule("wrong_class", "part of another class or range", FaultDecision::rework,
                   "What is not made for this cable or voltage was never tested on it, whatever its field",
                   "reading the part's print against the sheet", "Take the part off and fit the right one",
                   "kit");
}

NEEDLEGAUGE_FAULT(indicator_showing, 101) {
    return of_rule(
        "indicator_showing", "seating indicator still showing", FaultDecision::rework,
        "A separable connector that is not fully home has its electrodes apart from where they were "
        "designed, and air between its interfaces",
        "eye", "With everything dead and earthed by those who may: take it off, clean, grease, seat it again",
        "seat");
}

NEEDLEGAUGE_FAULT(sealant_missing, 102) {
    return of_rule("sealant_missing", "sealant missing", FaultDecision::rework,
                   "Moisture runs along wires and under jackets to the stress control, in months",
                   "eye, before it is covered", "Open as far as the seal, lay the sealant, close again",
                   "seal-under");
}

NEEDLEGAUGE_FAULT(crimp_short, 103) {
    return of_rule("crimp_short", "crimp short of its number", FaultDecision::rework,
                   "A connector with fewer crimps than its maker's number heats under load until it fails",
                   "counting the crimps",
                   "Add the missing crimps with the same die; a wrong die: cut the connector off", "crimp");
}

NEEDLEGAUGE_FAULT(bolt_not_sheared, 104) {
    return of_rule(
        "bolt_not_sheared", "bolt not sheared", FaultDecision::rework,
        "A shear bolt that has not sheared does not have its torque; its stump stands into the field",
        "eye, count", "Turn it until it shears, file the stump flush, fill the hole", "shear");
}

NEEDLEGAUGE_FAULT(screen_not_connected, 105) {
    return of_rule(
        "screen_not_connected", "metallic screen not connected", FaultDecision::rework,
        "A screen that is not connected takes a voltage through the cable's capacitance, up to the "
        "phase's own, and carries no fault current",
        "continuity meter", "Make the connection, measure end to end and to earth", "continuity");
}

} // namespace ng
