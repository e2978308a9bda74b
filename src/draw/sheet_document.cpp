#include "draw/sheet_document.h"
#include "draw/stage_drawing.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng::draw {
namespace {

QString q(const std::string& text) {
    return QString::fromStdString(text);
}

void add_step(Document& out, const SheetStep& step, int number, const PreparedDesign& prepared,
              const CutPlan& plan) {
    const auto theme = Theme::light();
    out.heading(3, QString("%1. %2").arg(number).arg(q(step.title)));
    for (const auto& line : step.lines) out.paragraph(q(line));
    if (!step.tools.empty())
        out.paragraph("Tools: " + q(fmt::format("{}", fmt::join(step.tools, ", "))) + ".", "faint");
    if (!step.consumables.empty())
        out.paragraph("Uses: " + q(fmt::format("{}", fmt::join(step.consumables, ", "))) + ".", "faint");
    for (const auto& caution : step.cautions) out.paragraph("Caution. " + q(caution), "caution");
    if (step.changes_picture) out.picture(stage_image({760, 190}, prepared, plan, step), 176, q(step.title));
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
    out.table({"job", "design", "date", "drawn by", "checked by"},
              {{head.job, q(sheet.title), head.date, "", ""}});
    out.paragraph(q("Made by " + made_by(prepared.data_version) + "."), "faint");
    if (head.status)
        out.paragraph(QString("Verdict: %1. %2").arg(status_word(*head.status)).arg(q(head.reason)),
                      *head.status == Status::falls_short ? "short" : "");
    else
        out.paragraph("Verdict: not judged, the design was not solved for this sheet.", "caution");
}

} // namespace

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
            {q(m.label), q(both_units(m.from_datum_mm)),
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
    out.keep_together();
    out.heading(2, "Picking list");
    std::vector<std::vector<QString>> picking;
    for (const auto& item : sheet.picking)
        picking.push_back({q(item.item), q(item.quantity), q(item.spare), q(item.note)});
    out.table({"item", "quantity", "spare", "note"}, picking);
    out.keep_together();
    out.heading(2, "Marks");
    auto rows = mark_rows(plan);
    for (auto& row : rows) row.resize(4);
    out.table({"mark", "from the datum", "from its neighbour", "±"}, rows);
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
