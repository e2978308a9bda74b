#include "draw/sheet_document.h"
#include "draw/cutback_drawing.h"
#include "draw/stage_drawing.h"
#include "draw/text.h"
#include "plan/laid_parts.h"
#include "plan/mark_facts.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng::draw {
namespace {

/// Places as data- attributes name them.
QString ids(const std::vector<PlaceId>& places) {
    QStringList out;
    for (const auto& place : places) out << q(id_of(place));
    return out.join(' ');
}

QString exact(double mm) {
    return QString::number(mm + 0.0, 'f', 3);
}

QString side_words(CableSide side) {
    return side == CableSide::a ? "A" : "B";
}

/// A table of one side needs no column for it.
void drop_side(std::vector<std::vector<QString>>& rows, std::ptrdiff_t column, const CutPlan& plan) {
    if (!plan.two_sides())
        for (auto& row : rows) row.erase(row.begin() + column);
}

void add_marks(Document& out, const CutPlan& plan) {
    out.keep_together();
    out.heading(2, "Marks");
    std::vector<Document::Data> data;
    for (const auto& m : plan.marks)
        if (m.kind != MarkKind::reference)
            data.push_back({{"mark", q(id_of(m.place))},
                            {"side", side_words(m.side)},
                            {"from-datum-mm", exact(m.from_datum_mm)},
                            {"tolerance-mm", QString::number(m.tolerance_mm)}});
    auto rows = mark_rows(plan);
    for (auto& row : rows) row.resize(4);
    out.table({"mark", "from the datum", "from its neighbour", "±"}, rows, {}, data);
    std::set<CableSide> told;
    for (const auto& m : plan.marks) {
        const auto added = plan.added_by_core_mm(m);
        if (added.empty() || !told.insert(m.side).second) continue;
        QStringList words;
        const auto& labels = plan.cores[m.side == CableSide::a ? 0 : 1]->phase_labels;
        for (std::size_t i = 0; i < added.size(); ++i) words << q(labels[i] + " + " + both_units(added[i]));
        out.paragraph(
            QString("These are the marks of the shortest core%1. On the others every mark beyond the crotch "
                    "lies further out: ")
                .arg(plan.two_sides() ? " of side " + side_words(m.side) : QString()) +
            words.join(", ") + ".");
    }
}

void add_cables(Document& out, const PreparedDesign& prepared, const CutPlan& plan) {
    out.keep_together();
    out.heading(2, "Cable");
    std::vector<std::vector<QString>> rows;
    std::vector<Document::Data> data;
    for (const auto side : {CableSide::a, CableSide::b}) {
        if (side == CableSide::b && !plan.two_sides()) break;
        const auto& cable = prepared.context().cable_of(side);
        const auto& dimensions = prepared.context().dimensions_of(side);
        const auto add = [&](const std::string& layer, double diameter, double uncertainty) {
            rows.push_back(
                {plan.two_sides() ? side_words(side) : QString(), q(layer),
                 QString("%1 mm / %2 in").arg(diameter, 0, 'f', 1).arg(diameter / mm_per_inch, 0, 'f', 2),
                 uncertainty > 0 ? QString("± %1 mm").arg(uncertainty, 0, 'f', 1) : QString()});
            data.push_back(
                {{"layer", q(layer)}, {"side", side_words(side)}, {"diameter-mm", exact(diameter)}});
        };
        for (const auto& layer : dimensions.layers)
            if (layer.name != "jacket" || cable.cores == 1)
                add(layer.name, layer.diameter_mm, std::max(0.1, layer.uncertainty_mm));
        const auto over = overall_dimensions(cable, dimensions);
        if (cable.cores == 3) add("laid-up cores", over.laid_up_mm, 0);
        if (cable.armour != "none") {
            add("bedding", over.bedding_mm, 0);
            add(armour_words(cable), over.armour_mm, 0);
        }
        if (cable.cores == 3) add("overall jacket", over.jacket_mm, 0);
    }
    drop_side(rows, 0, plan);
    out.table(plan.two_sides() ? std::vector<QString>{"side", "over", "diameter", "±"}
                               : std::vector<QString>{"over", "diameter", "±"},
              rows, {}, data);
}

/// What lies where in the end, for whoever builds it or draws it anew.
void add_parts(Document& out, const PreparedDesign& prepared, const CutPlan& plan) {
    std::vector<std::vector<QString>> rows;
    std::vector<Document::Data> data;
    for (const auto& part : laid_parts(prepared, plan)) {
        QStringList outline;
        for (const auto& p : part.outline) outline << exact(p.r) + "," + exact(p.z);
        const bool even = std::abs(part.diameter_at_from_mm - part.diameter_at_to_mm) < 0.05 &&
                          std::abs(part.greatest_diameter_mm - part.diameter_at_to_mm) < 0.05;
        rows.push_back({q(part.label), plan.two_sides() ? side_words(part.side) : QString(),
                        q(plan.distance_words(part.from_mm)), q(plan.distance_words(part.to_mm)),
                        even ? QString("%1 mm").arg(part.greatest_diameter_mm, 0, 'f', 1)
                             : QString("%1 and %2 mm at its ends, %3 mm at most")
                                   .arg(part.diameter_at_from_mm, 0, 'f', 1)
                                   .arg(part.diameter_at_to_mm, 0, 'f', 1)
                                   .arg(part.greatest_diameter_mm, 0, 'f', 1)});
        data.push_back({{"part", q(id_of(part.place))},
                        {"side", side_words(part.side)},
                        {"from-datum-mm", exact(part.from_mm)},
                        {"to-datum-mm", exact(part.to_mm)},
                        {"outline", outline.join(' ')}});
    }
    if (rows.empty()) return;
    out.keep_together();
    const double gap = std::abs(plan.line(CableSide::b).zero_z_mm - plan.line(CableSide::a).zero_z_mm);
    out.heading(2, "Parts as they lie in the end",
                plan.two_sides() ? Document::Data{{"between-datums-mm", exact(gap)}} : Document::Data{});
    if (plan.two_sides() && gap > 0)
        out.paragraph(q(fmt::format("From the datum of side A to that of side B: {}.", both_units(gap))));
    drop_side(rows, 1, plan);
    out.table(plan.two_sides()
                  ? std::vector<QString>{"part", "side", "from the datum", "to", "diameter over it"}
                  : std::vector<QString>{"part", "from the datum", "to", "diameter over it"},
              rows, {}, data);
}

void add_step(Document& out, const SheetStep& step, int number, const PreparedDesign& prepared,
              const CutPlan& plan) {
    const auto theme = Theme::light();
    out.heading(3, QString("%1. %2").arg(number).arg(q(step.title)),
                {{"step", q(step.id)},
                 {"lays", ids(step.lays)},
                 {"covers", ids(step.covers)},
                 {"cuts", ids(step.cuts)},
                 {"spares", q(fmt::format("{}", fmt::join(step.spares, ", ")))}});
    for (const auto& line : step.lines) out.paragraph(q(line));
    if (!step.tools.empty())
        out.paragraph("Tools: " + q(fmt::format("{}", fmt::join(step.tools, ", "))) + ".", "faint");
    if (!step.consumables.empty())
        out.paragraph("Uses: " + q(fmt::format("{}", fmt::join(step.consumables, ", "))) + ".", "faint");
    for (const auto& caution : step.cautions) out.paragraph("Caution. " + q(caution), "caution");
    if (step.changes_picture) {
        const int high = has_whole_end(prepared) ? 260 : 190;
        out.picture(stage_image({760, high}, prepared, plan, step), 176, q(step.title));
    }
    if (step.wait_s > 0)
        out.paragraph(QString("Wait for %1: %2 min. From ______ to ______")
                          .arg(q(step.wait_for))
                          .arg(step.wait_s / 60, 0, 'f', step.wait_s < 600 ? 1 : 0));
    if (!step.hold) return;
    const auto cell = [](const QString& head, const std::string& text) {
        return QString("<td><span class=\"faint\">%1</span><br>%2</td>")
            .arg(head, Document::escaped(q(text)));
    };
    out.raw(QString("<table border=\"2\" cellspacing=\"0\" cellpadding=\"4\" width=\"100%\" "
                    "style=\"border-color: %1\"><tr>"
                    "<td width=\"8%\"><b>HOLD</b></td>%2%3%4<td width=\"16%\"><span class=\"faint\">found, "
                    "by</span><br>&nbsp;<br>&nbsp;</td>"
                    "</tr></table>\n")
                .arg(theme.ink.name(), cell("look at", step.hold->check), cell("accept", step.hold->accept),
                     cell("if not", step.hold->otherwise)));
}

void add_title_block(Document& out, const WorkSheet& sheet, const PreparedDesign& prepared,
                     const SheetHead& head) {
    out.table({"job", "design", "revision", "date", "author", "checked by"},
              {{head.job, q(sheet.title), head.revision, head.date, head.author, ""}});
    out.paragraph(q("Made by " + made_by(prepared.data_version) + "."), "faint");
    if (head.status)
        out.paragraph(QString("Verdict: %1. %2").arg(status_word(*head.status)).arg(q(head.reason)),
                      *head.status == Status::falls_short ? "short" : "");
    else
        out.paragraph("Verdict: not judged, the design was not solved for this sheet.", "caution");
}

} // namespace

void SheetHead::take(const DesignState& state) {
    revision = q(state.revision);
    const auto* design = state.job.find_design(state.design);
    const bool frozen = state.is_frozen && design && !design->revisions.empty();
    author = frozen ? q(design->revisions.back().by) : QString();
}

void SheetHead::take(const Verdict& verdict, const Schedule* schedule) {
    status = verdict.status;
    reason = verdict.first_reason;
    if (schedule && severity(schedule->status) > severity(verdict.status)) {
        status = schedule->status;
        reason = schedule->first_reason;
    }
    if (schedule) return;
    if (verdict.status != Status::falls_short) status = Status::not_judged;
    reason += " The test schedule has not been run to its end.";
}

std::string not_to_be_built(const WorkSheet& sheet, const PreparedDesign& prepared, const CutPlan& plan,
                            const SheetHead& head) {
    if (!sheet.broken_rules.empty()) return sheet.broken_rules.front();
    if (head.status == Status::falls_short) return head.reason;
    for (const auto& check : plan.checks)
        if (check.status == Status::falls_short) return check.title + ": " + check.why + ".";
    for (const auto& check : prepared.fit.checks)
        if (check.status == Status::falls_short) return check.part + ": " + check.why;
    return {};
}

const std::vector<QString>& mark_head() {
    static const std::vector<QString> head{
        "mark", "from the datum", "from its neighbour", "±", "cuts / spares", "tool, blade", "why"};
    return head;
}

std::vector<std::vector<QString>> mark_rows(const CutPlan& plan) {
    std::vector<std::vector<QString>> rows;
    for (const auto& m : plan.marks) {
        if (m.kind == MarkKind::reference) continue;
        rows.push_back(
            {q(m.label), q(plan.distance_words(m.from_datum_mm)),
             m.neighbour.empty() ? "" : q(both_units(m.from_neighbour_mm)) + " from " + q(m.neighbour),
             QString("%1 mm").arg(m.tolerance_mm), q(m.cuts) + (m.spares.empty() ? "" : " / " + q(m.spares)),
             q(m.tool) + (m.blade_mm ? QString(", %1 mm").arg(*m.blade_mm, 0, 'f', 1) : ""), q(m.why)});
    }
    return rows;
}

Document sheet_document(const WorkSheet& sheet, const PreparedDesign& prepared, const CutPlan& plan,
                        bool large, const SheetHead& head) {
    Document out("Work sheet: " + q(sheet.title), large);
    if (const auto why = not_to_be_built(sheet, prepared, plan, head); !why.empty())
        out.warn("DO NOT BUILD. " + q(why));
    out.heading(1, q(sheet.title));
    add_title_block(out, sheet, prepared, head);
    out.paragraph(q(sheet.cable) + ".");
    out.paragraph(q(sheet.duty) + ". All distances from the " + q(sheet.datum) +
                  ", in millimetres and inches.");
    for (const auto& caution : sheet.cautions) out.paragraph("Caution. " + q(caution), "caution");
    for (const auto& broken : sheet.broken_rules)
        out.paragraph("Do not use this sheet: " + q(broken), "short");
    for (const auto& check : plan.checks)
        if (check.status != Status::holds)
            out.paragraph(q(fmt::format("{}: {}. {}.", check.title, check.why, check.cure)),
                          check.status == Status::falls_short ? "short" : "caution");
    for (const auto side : {CableSide::a, CableSide::b})
        if (plan.find(MarkKind::cable_end, side)) {
            out.keep_together();
            out.picture(cutback_image(720, prepared, plan, side), 176,
                        plan.two_sides() ? "Cut-back of side " + side_words(side) : QString("Cut-back"));
        }
    out.keep_together();
    out.heading(2, "Picking list");
    std::vector<std::vector<QString>> picking;
    for (const auto& item : sheet.picking)
        picking.push_back({q(item.item), q(item.quantity), q(item.spare), q(item.note)});
    out.table({"item", "quantity", "spare", "note"}, picking);
    add_cables(out, prepared, plan);
    add_marks(out, plan);
    add_parts(out, prepared, plan);
    if (!plan.parked.empty()) {
        std::vector<std::vector<QString>> parked;
        for (const auto& part : plan.parked)
            parked.push_back({q(part.part), part.side == CableSide::a ? "A" : "B",
                              q(both_units(part.length_mm)),
                              part.over_jacket ? "over the jacket" : "on the core"});
        out.keep_together();
        out.heading(2, "Parked before the connector");
        out.table({"part", "side", "length", "where"}, parked);
    }
    std::string phase;
    int number = 0;
    for (const auto& step : sheet.steps) {
        out.keep_together();
        if (step.phase != phase) {
            out.heading(2, q(step.phase));
            phase = step.phase;
        }
        add_step(out, step, ++number, prepared, plan);
    }
    out.paragraph(q(sheet.origin), "faint");
    return out;
}

} // namespace ng::draw
