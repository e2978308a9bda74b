#include "draw/report_document.h"
#include "design/revisions.h"
#include "draw/design_picture.h"
#include "draw/section_picture.h"
#include "draw/sheet_document.h"
#include "draw/text.h"
#include "draw/trace_picture.h"
#include "field/result_io.h"
#include "plan/sheet.h"
#include "units/quantity.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng::draw {
namespace {

using Rows = std::vector<std::vector<QString>>;

/// A sentence, whether or not it brought its full stop.
std::string sentence(std::string text) {
    while (text.ends_with(".")) text.pop_back();
    return text + ".";
}

QString unsure(bool verified) {
    return verified ? QString() : QString(" †");
}

void add_cable(Document& out, const Cable& cable, const CableDimensions& dimensions, const QString& side) {
    out.keep_together();
    out.heading(3, "Cable" + side + ": " + q(cable.title));
    Rows rows;
    for (const auto& layer : dimensions.layers) {
        if (cable.cores == 3 && layer.name == "jacket") continue; // it lies over all cores: below
        rows.push_back({q(layer.name),
                        q(format_length(layer.diameter_mm, LengthUnit::mm) + " / " +
                          format_length(layer.diameter_mm, LengthUnit::inch)),
                        QString("± %1 mm").arg(layer.uncertainty_mm, 0, 'f', 2),
                        q(format_length(layer.thickness_mm, LengthUnit::mm)), q(to_word(layer.provenance)),
                        q(layer.note)});
    }
    if (cable.cores == 3 || cable.armour != "none") { // over all cores together
        const auto over = overall_dimensions(cable, dimensions);
        const auto add = [&](const char* what, double diameter, const QString& note) {
            if (diameter > 0)
                rows.push_back({what,
                                q(format_length(diameter, LengthUnit::mm) + " / " +
                                  format_length(diameter, LengthUnit::inch)),
                                "", "", "computed", note});
        };
        if (cable.cores == 3) add("laid-up cores", over.laid_up_mm, "three equal circles in one");
        add("bedding", over.bedding_mm, "");
        add("armour", over.armour_mm, q(cable.armour));
        add("overall jacket", over.jacket_mm, "");
    }
    out.table({"over", "diameter", "uncertainty (k = 2)", "thickness", "origin", "note"}, rows);
}

void add_duty(Document& out, const PreparedDesign& p) {
    out.keep_together();
    const auto& duty = p.design.duty;
    out.heading(3, "Duty");
    out.paragraph(QString("%1, %2 kV class, U0 %3 kV, %4 Hz, %5; altitude %6 m, ambient %7 °C, pollution %8.")
                      .arg(q(p.standard_title))
                      .arg(duty.class_kV)
                      .arg(duty.u0(), 0, 'f', 2)
                      .arg(duty.frequency_hz)
                      .arg(duty.outdoor ? "outdoor" : "indoor")
                      .arg(duty.altitude_m)
                      .arg(duty.ambient_C)
                      .arg(q(duty.pollution)));
    Rows rows;
    for (const auto& spec : p.levels.specs) {
        const auto it = p.levels.levels.find(spec.name);
        if (it == p.levels.levels.end()) continue;
        const auto& v = it->second;
        rows.push_back({q(spec.title), QString("%1 %2").arg(v.value).arg(q(v.unit)) + unsure(v.verified),
                        q(v.origin()), v.by.empty() ? QString() : q(v.by + ", " + v.on)});
    }
    out.table({"level", "value", "origin", "confirmed or replaced by"}, rows);
}

void add_checks(Document& out, const std::vector<Check>& checks) {
    Rows rows;
    for (const auto& c : checks)
        rows.push_back({q(c.title), q(status_word(c.status)),
                        QString("%1 %2").arg(q(format_supported(c.value, c.relative_error)), q(c.unit)),
                        QString("%1 %2").arg(c.at_least ? "≥" : "≤", q(format_figures(c.limit, 3))),
                        QString("%1 %").arg(100 * c.margin, 0, 'f', 0),
                        QString("%1 %").arg(100 * c.relative_error, 0, 'f', 1),
                        q("z " + one_decimal(c.at.z) + " mm"), q(c.limit_origin)});
    out.table({"check", "status", "value", "limit", "margin", "error", "worst place", "origin of the limit"},
              rows);
}

void add_schedule(Document& out, const Schedule& schedule) {
    out.keep_together();
    out.heading(3, "Test schedule");
    out.paragraph("Computed before a laboratory is booked; it does not replace the type test.", "faint");
    Rows rows;
    for (const auto& t : schedule.tests) {
        const Check* worst = nullptr;
        for (const auto& c : t.checks)
            if (!worst || severity(c.status) > severity(worst->status) ||
                (c.status == worst->status && c.margin < worst->margin))
                worst = &c;
        rows.push_back(
            {q(t.title),
             t.voltage_kV > 0
                 ? QString("%1 %2").arg(q(format_figures(t.voltage_kV, 4)), q(t.unit)) + unsure(t.verified)
                 : "",
             q(status_text(t)), t.applies && worst ? q(worst->title) : "",
             t.applies && worst ? QString("%1 of %2 %3")
                                      .arg(q(format_supported(worst->value, worst->relative_error)),
                                           q(format_figures(worst->limit, 3)), q(worst->unit))
                                : "",
             q(t.applies ? t.model : t.why), q(t.voltage_origin)});
    }
    out.table({"test", "level", "status", "tightest check", "value", "model", "origin of the level"}, rows);
    for (const auto& t : schedule.tests)
        for (const auto& c : t.checks)
            if (c.status != Status::holds)
                out.paragraph(q(fmt::format("{}, {}: {}. {} Usual remedy, not computed: {}", t.title, c.title,
                                            status_word(c.status), sentence(c.why), sentence(c.cure))),
                              c.status == Status::falls_short ? "short" : "");
    for (const auto& statement : schedule.statements) out.paragraph(q(statement), "faint");
    if (schedule.assumptions.empty()) return;
    out.keep_together();
    out.heading(3, "Assumed, and it moves the answer");
    std::vector<QString> assumed;
    for (const auto& a : schedule.assumptions) assumed.push_back(q(a.words));
    out.list(assumed);
}

QImage traces(const ReportedDesign& d) {
    QImage image(1800, 560, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    painter.scale(2, 2);
    paint_traces(painter, QRectF(0, 0, 900, 280), *d.prepared, *d.solution, Theme::light());
    return image;
}

void add_fit(Document& out, const PreparedDesign& p) {
    if (p.fit.checks.empty()) return;
    out.keep_together();
    out.heading(3, "Fit");
    Rows rows;
    for (const auto& c : p.fit.checks)
        rows.push_back(
            {q(c.title), q(status_word(c.status)),
             c.value > 0
                 ? QString("%1 ± %2 %3").arg(c.value, 0, 'f', 1).arg(c.uncertainty, 0, 'f', 1).arg(q(c.unit))
                 : "",
             c.highest > 0 ? QString("%1 to %2").arg(c.lowest, 0, 'f', 1).arg(c.highest, 0, 'f', 1) : "",
             q(c.why)});
    out.table({"part", "status", "value", "range", "why"}, rows);
}

/// Every dimension and choice of the accessory, typed or usual.
void add_accessory(Document& out, const PreparedDesign& p) {
    out.keep_together();
    out.heading(3, "Accessory");
    Rows rows;
    for (const auto& spec : p.family->parameters) {
        const bool choice = spec.kind == ParameterKind::choice;
        const bool typed = choice ? p.design.choices.contains(spec.key) : p.design.numbers.contains(spec.key);
        QString value;
        if (choice) {
            const auto chosen = choice_of(p.context(), spec.key);
            value = q(chosen);
            for (const auto& [option, said] : spec.options)
                if (option == chosen) value = q(said);
        } else {
            const double number = number_of(p.context(), spec.key);
            value = spec.kind == ParameterKind::length ? q(format_length(number, LengthUnit::mm) + " / " +
                                                           format_length(number, LengthUnit::inch))
                    : spec.kind == ParameterKind::conductivity ? QString("%1 S/m").arg(number, 0, 'g', 3)
                                                               : QString::number(number, 'g', 4);
        }
        rows.push_back({q(spec.group), q(spec.label), value, typed ? "typed in" : "usual"});
    }
    out.table({"group", "dimension or choice", "value", "origin"}, rows);
}

/// What the field was computed with.
void add_materials(Document& out, const PreparedDesign& p) {
    out.keep_together();
    out.heading(3, "Materials of the section");
    Rows rows;
    for (const auto& [id, material] : p.built.section.materials) {
        QString conduction = "none";
        if (material.conduction)
            conduction = QString("%1, %2 S/m at no field")
                             .arg(q(material.conduction->law))
                             .arg(material.conduction->sigma0_S_per_m, 0, 'g', 3);
        const auto dc = p.built.dc_S_per_m.find(id);
        rows.push_back(
            {q(material.title.empty() ? id : material.title), QString::number(material.eps_r, 'g', 4),
             material.eps_r_by_frequency.empty()
                 ? ""
                 : QString("by frequency, %1 points").arg(material.eps_r_by_frequency.size()),
             conduction, dc == p.built.dc_S_per_m.end() ? "" : QString("%1 S/m").arg(dc->second, 0, 'g', 3)});
    }
    out.table({"material", "relative permittivity", "", "conduction", "at DC"}, rows);
}

void add_revisions(Document& out, const Job& job, const PreparedDesign& p) {
    out.keep_together();
    out.heading(3, "Revisions");
    out.paragraph("This state: " + q(revision_words(job, p.design)) + ".");
    Rows rows;
    for (std::size_t i = 0; i < p.design.revisions.size(); ++i) {
        const auto& r = p.design.revisions[i];
        rows.push_back({q(r.name), q(r.on), q(r.by), q(r.why),
                        q(fmt::format("{}", fmt::join(changes_of(p.design, i, p.family), "; ")))});
    }
    if (!rows.empty()) out.table({"revision", "on", "by", "why", "changes"}, rows);
}

void add_signatures(Document& out) {
    out.keep_together();
    out.heading(2, "Signatures");
    out.table({"", "name, role", "date", "signature"},
              {{"prepared", "", "", ""}, {"checked", "", "", ""}, {"signed off", "", "", ""}});
}

void add_memory(Document& out, const Job& job, const PreparedDesign& p) {
    std::vector<QString> memory, replaced;
    for (const auto& spec : p.levels.specs)
        if (const auto it = p.levels.levels.find(spec.name); it != p.levels.levels.end()) {
            if (!it->second.verified) memory.push_back(q(spec.title + ": " + it->second.origin()));
            if (!it->second.by.empty())
                replaced.push_back(
                    q(spec.title + ": by " + it->second.by + ", " + it->second.on + ". " + it->second.note));
        }
    for (const auto& layer : p.dimensions.layers)
        if (layer.provenance == Provenance::from_memory)
            memory.push_back(q("Cable, " + layer.name + ": " + layer.note));
    for (const auto& [id, change] : job.limit_overrides)
        replaced.push_back(q(fmt::format(
            "Rule {}: {}{}{}", id, change.value ? format_figures(*change.value, 4) : "confirmed",
            change.by.empty() ? "" : ", by " + change.by, change.on.empty() ? "" : ", " + change.on)));
    for (const auto& [id, eps] : job.material_overrides)
        replaced.push_back(q(fmt::format("Permittivity of {}: {:g}", id, eps)));
    out.keep_together();
    out.heading(3, "Overridden by the user");
    if (replaced.empty())
        out.paragraph("Nothing.");
    else
        out.list(replaced);
    out.keep_together();
    out.heading(3, "From memory or computed, not confirmed against an edition (†)");
    if (memory.empty())
        out.paragraph("Nothing.");
    else
        out.list(memory);
}

void add_design(Document& out, const Job& job, const ReportedDesign& d) {
    const auto& p = *d.prepared;
    out.page_break();
    out.heading(2, q(p.design.title));
    out.paragraph(QString("%1. Verdict: %2.").arg(q(p.family->title), q(d.overall_words())),
                  d.overall() == Status::falls_short ? "short" : "");
    if (!p.design.note.empty()) out.paragraph(q(p.design.note));
    for (const auto& statement : p.built.statements) out.paragraph(q(statement));
    out.picture(design_picture(p, *d.solution, 900, 430, 2), 178, "Section above the axis, field below it");
    out.picture(edge_picture(p, *d.solution, 900, 330, 2), 178,
                "Beside the screen edge, one scale along and across");
    out.picture(traces(d), 178, "Stress along the judged paths");
    out.paragraph(q(describe_end(d.solution->report)) + ".", "faint");
    add_cable(out, p.cable, p.dimensions, p.other_cable ? " of side A" : "");
    if (p.other_cable) add_cable(out, *p.other_cable, *p.other_dimensions, " of side B");
    add_duty(out, p);
    add_accessory(out, p);
    add_materials(out, p);
    out.keep_together();
    out.heading(3, "Checks of the field");
    add_checks(out, d.verdict->checks);
    for (const auto& c : d.verdict->checks)
        if (c.status != Status::holds)
            out.paragraph(q(fmt::format("{}: {} Usual remedy, not computed: {}", c.title, sentence(c.why),
                                        sentence(c.cure))),
                          c.status == Status::falls_short ? "short" : "");
    if (d.schedule) add_schedule(out, *d.schedule);
    add_fit(out, p);
    out.keep_together();
    out.heading(3, "Marks, from the " + q(name_of(d.plan->datum)));
    auto rows = mark_rows(*d.plan);
    for (auto& row : rows) row.resize(5);
    auto head = mark_head();
    head.resize(5);
    out.table(head, rows);
    for (const auto& check : d.plan->checks)
        if (check.status != Status::holds)
            out.paragraph(q(fmt::format("{}: {} {}", check.title, sentence(check.why), sentence(check.cure))),
                          "short");
    add_memory(out, job, p);
    add_revisions(out, job, p);
}

} // namespace

std::string ReportedDesign::overall_words() const {
    return status_words(overall(), schedule ? schedule->set_aside : verdict->set_aside);
}

Status ReportedDesign::overall() const {
    Status worst = verdict->status;
    if (schedule && severity(schedule->status) > severity(worst)) worst = schedule->status;
    if (plan && severity(plan->status) > severity(worst)) worst = plan->status;
    return worst;
}

Document report_document(const Job& job, const std::vector<ReportedDesign>& designs, const QString& date) {
    Document out("Report: " + q(job.title));
    out.heading(1, q(job.title));
    out.paragraph("Report on the electric field, the fit and the cut marks of cable accessories. " + date);
    if (!job.note.empty()) out.paragraph(q(job.note));
    out.paragraph("Caution. A design aid for competent engineers: it does not replace a type test, the "
                  "makers' instructions, local "
                  "codes or licensed practice, and it never says that something is safe to touch.",
                  "caution");
    std::vector<QString> cautions;
    for (const auto& d : designs)
        for (const auto& caution : d.prepared->built.cautions)
            if (std::find(cautions.begin(), cautions.end(), q(caution)) == cautions.end())
                cautions.push_back(q(caution));
    out.list(cautions);
    out.heading(2, "Designs");
    Rows rows;
    for (const auto& d : designs)
        rows.push_back(
            {q(d.prepared->design.title), q(d.prepared->family->title),
             QString("%1, %2 kV").arg(q(d.prepared->standard_title)).arg(d.prepared->design.duty.class_kV),
             q(d.overall_words()),
             q(d.schedule && !d.schedule->first_reason.empty() ? d.schedule->first_reason
                                                               : d.verdict->first_reason)});
    out.table({"design", "family", "duty", "verdict", "why"}, rows);
    for (const auto& d : designs) add_design(out, job, d);
    add_signatures(out);
    if (!designs.empty())
        out.paragraph(q("Made by " + made_by(designs.front().prepared->data_version) + "."), "faint");
    return out;
}

} // namespace ng::draw
