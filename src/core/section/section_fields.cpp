#include "section/section_fields.h"

namespace ng {
namespace {

using Type = FieldSpec::Type;
using L = SectionLimits;

FieldSpec number(std::string key, std::string meaning, double least, double most, bool above = false) {
    return {.key = std::move(key),
            .type = Type::number,
            .meaning = std::move(meaning),
            .least = least,
            .most = most,
            .above = above};
}
FieldSpec of_type(Type type, std::string key, std::string meaning, const ObjectFields* of = nullptr) {
    return {.key = std::move(key), .type = type, .meaning = std::move(meaning), .of = of};
}
FieldSpec choice(std::string key, std::string meaning, std::vector<std::string> choices) {
    return {.key = std::move(key),
            .type = Type::text,
            .meaning = std::move(meaning),
            .choices = std::move(choices)};
}
FieldSpec required(FieldSpec field) {
    field.required = true;
    return field;
}
/// Required with some kinds of its object, and refused with all others.
FieldSpec belongs_to(std::vector<std::string> kinds, FieldSpec field) {
    field.only_for = kinds;
    field.required_for = std::move(kinds);
    return field;
}
FieldSpec required_for(std::vector<std::string> kinds, FieldSpec field) {
    field.required_for = std::move(kinds);
    return field;
}
FieldSpec name_of(const char* what) {
    return required(of_type(Type::text, "name", what));
}

const ObjectFields temperature{
    "temperature",
    {required(number("per_kelvin", "1/K: sigma grows by exp(per_kelvin (actual - reference))", -1, 1)),
     required(number("reference_C", "degC, of the law", -273, 2000)),
     required(number("actual_C", "degC", -273, 2000))},
    "",
    "",
    true};

const ObjectFields conduction{
    "conduction",
    {required(choice("law", "how sigma depends on the field", {"constant", "power", "exponential", "table"})),
     belongs_to({"constant", "power", "exponential"},
                number("sigma0_S_per_m", "S/m, 0 or more", 0, L::largest_S_per_m)),
     belongs_to({"power"}, number("E0_kV_per_mm", "kV/mm", 0, L::largest_kV_per_mm, true)),
     belongs_to({"power", "exponential"}, number("exponent", "of the field", 0, 30)),
     belongs_to({"exponential"}, number("a", "(mm/kV)^exponent", 0, 1e6)),
     belongs_to({"table"}, of_type(Type::rows, "table", "rows [kV/mm, S/m], rising")),
     [] {
         auto field = choice("field", "which field of the cycle the law is stated in", {"rms", "peak"});
         field.required_for = {"power", "exponential", "table"};
         return field;
     }(),
     of_type(Type::object, "temperature", "", &temperature),
     of_type(Type::text, "provenance", "where the law comes from")},
    "law",
    "",
    true};

const ObjectFields material{
    "material",
    {required(number("eps_r", "relative permittivity, at power frequency", 1, L::largest_eps_r)),
     of_type(Type::text, "title", "for people"),
     of_type(Type::rows, "eps_r_by_frequency", "rows [Hz, eps_r], frequency rising, permittivity not rising"),
     of_type(Type::text, "eps_provenance", "where the table comes from"),
     of_type(Type::object, "conduction", "", &conduction)}};

const ObjectFields line{"line", {required(of_type(Type::point, "to", "end of a straight line, mm"))}};

const ObjectFields arc{
    "arc",
    {required(of_type(Type::point, "arc_to", "end of an arc, mm")),
     required(of_type(Type::point, "centre", "of the arc, mm")),
     of_type(Type::boolean, "clockwise", "seen with r to the right and z up; needed for a half circle"),
     of_type(Type::text, "name", "how the arc is reported")}};

FieldSpec outline(const char* meaning) {
    auto field = required(of_type(Type::outline, "outline", meaning, &line));
    field.arc = &arc;
    return field;
}

const ObjectFields region{"region",
                          {name_of("one name per region"),
                           required(of_type(Type::text, "material", "one of the materials")),
                           outline("closed; a later region covers an earlier one"),
                           of_type(Type::boolean, "covers_electrodes",
                                   "lies over electrodes too, such as a notch in one; false if absent")}};

const ObjectFields electrode{
    "electrode",
    {name_of("one name per electrode"), of_type(Type::boolean, "floating", "zero net charge"),
     belongs_to({"false"}, number("voltage_kV", "rms of AC, crest of an impulse, value of DC", -L::largest_kV,
                                  L::largest_kV)),
     outline("closed; electrodes cover all regions that do not say otherwise")},
    "floating",
    "false"};

const ObjectFields boundary{
    "boundary",
    {name_of("one name per boundary"),
     required(number("voltage_kV", "as of electrodes", -L::largest_kV, L::largest_kV)),
     required(of_type(Type::points, "along", "points of an open line, mm"))}};

const ObjectFields path{"path",
                        {name_of("one name per path"), required(of_type(Type::points, "points", "mm")),
                         required(of_type(Type::text, "side", "region in which it is read"))}};

const ObjectFields probe{"probe",
                         {name_of("one name per probe"), required(of_type(Type::point, "at", "mm")),
                          required(of_type(Type::text, "side", "region in which it is read"))}};

const ObjectFields impulse{
    "impulse",
    {required(number("front_us", "front time; above 20 us the time to the crest", 0, 1e5, true)),
     required(number("tail_us", "time to half value", 0, 1e6, true)),
     choice("polarity", "positive when it is not given", {"positive", "negative"}),
     number("chopped_at_us", "the collapse begins here", 0, 1e7, true),
     number("duration_us", "how long it is followed", 0, 1e8, true)}};

const ObjectFields nonlinear{
    "nonlinear",
    {required(choice("method", "of the steady state", {"phasor", "time"})),
     {.key = "most_cycles", .type = Type::whole, .meaning = "in time", .least = 2, .most = 500}}};

const ObjectFields dc{
    "dc",
    {required(number("duration_s", "the way from the first instant, so long", 0, 1e9, true)),
     number("ramp_s", "in which the voltage rises evenly; 0, a step, when not given", 0, 1e9)}};

const ObjectFields section{
    "section",
    {required(choice("format", "", {"needlegauge-section"})),
     required({.key = "version",
               .type = Type::whole,
               .meaning = "of the format",
               .least = 1,
               .most = section_format_version}),
     required(choice("symmetry", "points are [r, z] or [x, y]", {"axisymmetric", "planar"})),
     choice("analysis", "capacitive when it is not given", analysis_words()),
     required_for({"complex", "nonlinear"}, number("frequency_hz", "Hz", 0, L::largest_hz)),
     required_for({"impulse"}, of_type(Type::object, "impulse", "", &impulse)),
     of_type(Type::object, "nonlinear", "the phasor method when it is not given", &nonlinear),
     of_type(Type::object, "dc", "the final state when it is not given", &dc),
     required(of_type(Type::map, "materials", "by name", &material)),
     required(of_type(Type::list, "regions", "later ones cover earlier ones", &region)),
     of_type(Type::list, "electrodes", "", &electrode), of_type(Type::list, "boundaries", "", &boundary),
     of_type(Type::list, "paths", "", &path), of_type(Type::list, "probes", "", &probe)},
    "analysis",
    "capacitive"};

} // namespace

const ObjectFields& section_fields() {
    return section;
}

FieldSpec outline_field(const char* meaning) {
    return outline(meaning);
}

} // namespace ng
