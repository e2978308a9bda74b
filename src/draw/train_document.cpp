#include "draw/train_document.h"
#include "draw/text.h"
#include "io/json_reader.h"
#include "units/version.h"
#include <fmt/format.h>

namespace ng::draw {
namespace {

using Rows = std::vector<std::vector<QString>>;

QString about(const Exam& exam) {
    return QString("Seed %1, level %2, %3 exercises, %4 min.")
        .arg(exam.seed)
        .arg(exam.level)
        .arg(exam.count)
        .arg(exam.minutes);
}

const char* origin =
    "Made from the design's own plan, sheet and field. It trains hands and eyes; it licenses nobody, and "
    "the maker's instructions and local rules go before every line of it.";

} // namespace

Document exam_document(const std::vector<Exercise>& exercises, const Exam& exam, const std::string& job_title,
                       const TrainerData& data) {
    Document out("Exam: " + q(job_title));
    out.heading(1, "Exam: " + q(job_title));
    out.paragraph(about(exam));
    out.paragraph(origin, "short");
    out.table({"role and initials", "date", "begun", "ended"}, {{" ", " ", " ", " "}});
    int number = 0;
    for (const auto& e : exercises) {
        out.keep_together();
        out.heading(2, QString("%1. %2").arg(++number).arg(task_title(e.task)), {{"exercise", q(e.id)}});
        std::vector<QString> given;
        for (const auto& g : e.question.given) given.push_back(q(g));
        out.list(given);
        out.paragraph(q(e.question.words));
        if (e.task == Task::inspect) {
            Rows rows;
            for (const auto& m : data.means.means)
                rows.push_back({q(m.title), q(m.how), q(spent_words(m.seconds)), " "});
            out.table({"means", "how", "takes", "used, seen"}, rows);
            out.table({"found", "side", "mm from the screen edge", "accept, rework, cut back, ask"},
                      {{" ", " ", " ", " "}, {" ", " ", " ", " "}, {" ", " ", " ", " "}});
            out.paragraph("Released: yes / no");
            continue;
        }
        for (const auto& o : e.question.options) out.paragraph(q(o.key) + ") " + q(o.words), "short");
        out.paragraph(e.question.form == Question::Form::number ? "Answer: ____________ " + q(e.question.unit)
                                                                : QString("Answer: ____________"));
    }
    out.paragraph("Tables " + q(data.hash.substr(0, 16)) + ", " + q(made_by()), "short");
    return out;
}

Document result_document(const Exam& exam, const std::vector<KeptAnswer>& answers, const Progress& progress) {
    Document out("Result: " + q(exam.who.role + " " + exam.who.initials));
    out.heading(1, "Result: " + q(exam.who.role + " " + exam.who.initials));
    out.paragraph(about(exam) +
                  QString(" Begun %1, ended %2.")
                      .arg(q(exam.begun_utc), exam.ended_utc.empty() ? "not" : q(exam.ended_utc)));
    out.paragraph(origin, "short");
    Rows rows;
    double points = 0;
    std::size_t scored = 0;
    for (const auto& a : answers) {
        QString what, lines;
        if (const auto result = parse_json(a.result, "score"); result && result->is_object()) {
            JsonReader in(*result, "score");
            if (const auto task = task_of(in.text_or("task", ""))) what = task_title(*task);
            for (const auto& line : in.array("lines"))
                if (line.is_string()) lines += (lines.isEmpty() ? "" : ". ") + q(line);
        }
        if (a.points) points += *a.points, ++scored;
        rows.push_back({QString::number(rows.size() + 1), what,
                        a.points ? QString("%1 %").arg(100 * *a.points, 0, 'f', 0) : QString("not scored"),
                        a.points ? lines : q(a.not_scored)});
    }
    out.table({"", "exercise", "points", "what was right, and why"}, rows);
    out.keep_together();
    out.paragraph(scored ? QString("%1 of %2 answered and scored, %3 % of their points.")
                               .arg(scored)
                               .arg(exam.count)
                               .arg(100 * points / static_cast<double>(scored), 0, 'f', 0)
                         : QString("Nothing is scored."));
    Rows topics;
    for (const auto& t : progress.topics())
        topics.push_back({q(topic_title(t.name)),
                          QString::number(t.right()) + " of " + QString::number(t.answers.size()),
                          QString("%1 of %2").arg(t.box).arg(leitner_boxes)});
    out.heading(2, "By topic, in all that is kept");
    out.table({"topic", "right", "box"}, topics);
    out.keep_together();
    out.table({"trainee", "instructor", "date"}, {{" ", " ", " "}});
    return out;
}

} // namespace ng::draw
