#include "draw/record_document.h"
#include "draw/chart_picture.h"
#include "draw/design_picture.h"
#include "draw/text.h"
#include "draw/trace_picture.h"
#include "record/search.h"
#include "units/quantity.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng::draw {
namespace {

using Rows = std::vector<std::vector<QString>>;

QString when(const RecordedRow& row) {
    return q(row.at.local).replace('T', ' ').left(16);
}
QString by(const RecordedRow& row) {
    return q(row.who.role + " " + row.who.initials);
}
QString tool_words(const Log& log, const RecordedRow& row) {
    const auto* tool = row.instrument ? log.find(*row.instrument) : nullptr;
    if (!tool) return "typed in";
    const auto body = tool->body();
    const auto due = body.value("due_on", std::string());
    auto words = q(body.value("instrument", std::string()) + " " + body.value("serial", std::string()));
    if (!due.empty() && row.at.utc.substr(0, 10) > due) words += ", out of calibration since " + q(due);
    return words;
}
QString figure(double value) {
    return QString::number(value, 'g', 5);
}

QString correction_words(const RecordedRow& row) {
    return row.corrects ? QString(" (corrects row %1: %2)").arg(*row.corrects).arg(q(row.why)) : QString();
}

void add_marks(Document& out, const ReportedRecord& r) {
    const auto& built = r.verdict->built;
    out.keep_together();
    out.heading(2, "Marks: designed and as built");
    Rows rows;
    for (const auto& m : built.marks) {
        const RecordedReading* reading = nullptr;
        for (const auto& one : r.record->readings)
            if (one.number == m.row) reading = &one;
        const auto low = reading ? reading->figure("lowest") : std::nullopt,
                   high = reading ? reading->figure("highest") : std::nullopt;
        rows.push_back({q(m.label), QString::number(m.designed_mm, 'f', 1),
                        QString::number(m.built_mm, 'f', 1), QString::number(m.off_mm() + 0.0, 'f', 1),
                        low && high ? figure(*low) + " to " + figure(*high) : "",
                        !m.within   ? "no range"
                        : *m.within ? "within"
                                    : "OUT",
                        reading ? by(*reading) : "",
                        reading ? tool_words(*r.log, *reading) + correction_words(*reading) : ""});
    }
    out.table({"mark", "designed, mm", "as built, mm", "off, mm", "accepted", "", "read by", "with"}, rows);
    if (!built.differences.empty()) {
        out.heading(3, "What differs from the design");
        std::vector<QString> items;
        for (const auto& d : built.differences) items.push_back(q(d));
        out.list(items);
    }
    for (const auto& [title, list] : {std::pair{"Readings that the section cannot show", &built.not_taken},
                                      std::pair{"Not measured: taken as designed", &built.unmeasured}}) {
        if (list->empty()) continue;
        out.heading(3, title);
        std::vector<QString> items;
        for (const auto& d : *list) items.push_back(q(d));
        out.list(items);
    }
    if (!r.unmeasured_words.empty()) out.paragraph(q(r.unmeasured_words));
}

void add_field(Document& out, const BuiltVerdict& v) {
    out.keep_together();
    out.heading(2, "Field as built beside as designed");
    Rows rows;
    for (const auto& pair : v.pairs()) {
        const auto cell = [](const Check* c) {
            return !c ? QString("not asked")
                      : QString("%1 (%2)").arg(q(format_supported(c->value, c->relative_error)),
                                               q(status_word(c->status)));
        };
        const auto* any = pair.as_built ? pair.as_built : pair.designed;
        rows.push_back({q(pair.title), cell(pair.designed), cell(pair.as_built),
                        any->limit > 0 ? (any->at_least ? "at least " : "") + figure(any->limit) : "",
                        q(any->unit)});
    }
    out.table({"check", "as designed", "as built", "limit", ""}, rows);
    out.picture(design_picture(v.as_built->prepared, v.as_built->solutions.at_u0, 900, 430, 2), 178,
                "As built: section above the axis, field below it");
}

void add_work(Document& out, const ReportedRecord& r) {
    const auto& record = *r.record;
    out.keep_together();
    out.heading(2, "Hold points");
    Rows rows;
    for (const auto& h : record.holds)
        rows.push_back(
            {q(h.text("check")),
             q(h.text("found")) + (h.text("against").empty() ? "" : " (" + q(h.text("against")) + ")"),
             h.text("decision") == "cut_back" ? "CUT BACK"
             : h.accepted()                   ? "accepted"
                                              : "REWORK",
             q(h.text("reason")), by(h), when(h)});
    out.table({"held", "found (against)", "decision", "reason", "by", "when"}, rows);
    if (!r.open.empty()) {
        std::vector<QString> items;
        for (const auto& o : r.open) items.push_back(q(o));
        out.paragraph("Open hold points:", "short");
        out.list(items);
    }
    if (!record.faults.empty()) {
        out.keep_together();
        out.heading(2, "Faults found");
        Rows faults;
        for (const auto& f : record.faults)
            faults.push_back({q(f.text("words")), q(f.text("means")), q(f.text("decision")),
                              q(f.text("reason")), by(f), when(f)});
        out.table({"fault", "found by", "decision", "reason", "by", "when"}, faults);
    }
    Rows others;
    for (const auto& reading : record.readings)
        if (reading.text("what") != "mark")
            others.push_back({q(reading.words()), tool_words(*r.log, reading), by(reading), when(reading),
                              correction_words(reading)});
    if (!others.empty()) {
        out.keep_together();
        out.heading(2, "Other readings");
        out.table({"reading", "with", "by", "when", ""}, others);
    }
    if (!record.parts.empty()) {
        out.keep_together();
        out.heading(2, "Parts used");
        Rows parts;
        for (const auto& p : record.parts)
            parts.push_back({q(p.text("part")), q(p.text("size")), q(p.text("batch")), q(p.text("expires"))});
        out.table({"part", "size", "batch", "use before"}, parts);
    }
    if (!record.files.empty()) {
        out.keep_together();
        out.heading(2, "Files");
        Rows files;
        for (const auto& f : record.files)
            files.push_back({q(f.text("name")), q(f.text("about")), q(f.text("sha256"))});
        out.table({"file", "what it shows", "SHA-256"}, files);
    }
    if (!record.notes.empty()) {
        out.keep_together();
        out.heading(2, "Notes");
        std::vector<QString> items;
        for (const auto& n : record.notes) items.push_back(when(n) + ", " + by(n) + ": " + q(n.text("text")));
        out.list(items);
    }
}

void add_tests(Document& out, const AccessoryRecord& record) {
    if (record.tests.empty()) return;
    out.keep_together();
    out.heading(2, "Tests");
    Rows rows;
    for (const auto& t : record.tests)
        rows.push_back({q(t.text("title")),
                        t.figure("level") ? figure(*t.figure("level")) + " " + q(t.text("unit")) : "",
                        t.figure("minutes").value_or(0) > 0 ? figure(*t.figure("minutes")) + " min" : "",
                        t.text("result") == "pass" ? "passed" : q(t.text("result")).toUpper(),
                        q(t.text("why")), q(t.text("limits")), by(t), when(t)});
    out.table({"test", "level", "held", "result", "", "by whose limits", "by", "when"}, rows);
    for (const auto& t : record.tests) {
        if (!t.body.contains("trace")) continue;
        SiteTest test{t.text("test"),
                      t.text("title"),
                      t.text("set"),
                      t.figure("level").value_or(0),
                      t.text("unit"),
                      0,
                      t.figure("minutes").value_or(0)};
        test.reading_unit = t.text("reading_unit");
        std::vector<TracePoint> trace;
        const auto readings = t.body.value("readings", nlohmann::json::array());
        for (const auto& p : t.body["trace"]) {
            const auto i = trace.size();
            trace.push_back({p[0].get<double>(), p[1].get<double>(),
                             i < readings.size() ? readings[i][1].get<double>() : 0});
        }
        QImage image(1200, 380, QImage::Format_RGB32);
        image.fill(Theme::light().paper);
        QPainter painter(&image);
        painter.scale(2, 2);
        paint_test_trace(painter, QRectF(0, 0, 600, 190), test, trace, Theme::light());
        painter.end();
        out.keep_together();
        out.heading(3, q(test.title));
        out.picture(image, 140, "Level over time");
    }
}

void add_signatures(Document& out, const ReportedRecord& r) {
    out.keep_together();
    out.heading(2, "Sign-offs");
    Rows rows;
    for (const auto& closes : sign_off_order()) {
        bool any = false;
        for (const auto& s : r.record->sign_offs)
            if (s.closes() == closes) {
                any = true;
                rows.push_back({q(closes), by(s), when(s),
                                QString("rows to %1").arg(s.body.value("rows", std::int64_t{0})),
                                s.stands() ? "stands" : QString("OPENED AGAIN by row %1").arg(*s.opened_by),
                                q(s.text("open").empty() ? "" : "over what was open: " + s.text("reason"))});
            }
        if (!any) rows.push_back({q(closes), "not signed", "", "", "", ""});
    }
    out.table({"as", "by", "when", "covers", "", "reason"}, rows);
}

} // namespace

Document record_document(const ReportedRecord& r) {
    const auto& record = *r.record;
    const auto said = [&](const char* key) { return q(record.begun.text(key)); };
    Document out("As-built report: " + said("title"));
    if (!r.verification->holds()) out.warn("THE RECORD DOES NOT VERIFY: " + q(r.verification->words()));
    out.heading(1, said("title"));
    out.paragraph("As-built report. " + (r.verdict ? q(r.verdict->words()) + "."
                                                   : "As built it cannot be solved: " + q(r.why_not)),
                  r.verdict && r.verdict->as_built->verdict.status != Status::falls_short ? QString()
                                                                                          : "short");
    out.paragraph("Caution. A record for competent, licensed people: it does not replace a test, the makers' "
                  "instructions or "
                  "local codes, and it never says that something is safe to touch.",
                  "caution");
    Rows rows;
    for (const auto& [key, words] :
         {std::pair{"place", "place"}, std::pair{"phase", "phase or core"}, std::pair{"drum", "cable drum"},
          std::pair{"drum_b", "cable drum, side B"}, std::pair{"kit", "kit"}, std::pair{"batch", "batch"},
          std::pair{"weather", "weather"}, std::pair{"jointer", "built by"}, std::pair{"revision", "design"}})
        if (!said(key).isEmpty()) rows.push_back({words, said(key)});
    rows.push_back({"record begun", when(record.begun) + ", " + by(record.begun)});
    rows.push_back({"frozen design, SHA-256", said("sha256")});
    out.table({"", ""}, rows);
    if (r.verdict) add_marks(out, r);
    add_work(out, r);
    if (r.verdict) add_field(out, *r.verdict);
    add_tests(out, record);
    add_signatures(out, r);
    out.keep_together();
    out.heading(2, "The chain of the record");
    out.paragraph(q(r.verification->words()) + ".", r.verification->holds() ? QString() : "short");
    for (const auto& remark : r.verification->remarks) out.paragraph(q(remark) + ".");
    out.paragraph(QString("Last hash: %1").arg(q(r.verification->last.words())), "hash");
    out.paragraph(QString("To hold the record against this page: needlegauge-cli record verify %1 --kept %2")
                      .arg(q(r.log->path().filename().string()), q(r.verification->last.words())),
                  "faint");
    out.paragraph(q("Made by " + made_by(r.data_version) + "."), "faint");
    return out;
}

} // namespace ng::draw
