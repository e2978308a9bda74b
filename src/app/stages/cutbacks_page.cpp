#include "app/stages/cutbacks_page.h"
#include "app/model/text.h"
#include "draw/template_picture.h"
#include "io/file.h"
#include "plan/move_mark.h"
#include "plan/work.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QSignalBlocker>

namespace ng::app {
CutbacksPage::CutbacksPage(Session& session, QWidget* parent) : Page(session, "Cutbacks", parent) {
    auto* from = add_group("Measured from");
    datum_ = add_choice(from, "Datum", {});
    datum_->setToolTip("What all distances count from");
    long_side_ = add_choice(from, "Long side", {"A", "B"});
    long_side_->setToolTip("Where parts that lie over the middle are parked");

    add_group("Marks");
    table_ = new QTableWidget(0, 3);
    table_->setObjectName("marks");
    table_->setHorizontalHeaderLabels({"mark", "distance", "±"});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(20);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setColumnWidth(1, 82);
    table_->setColumnWidth(2, 44);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    table_->setAccessibleName("Cut marks");
    table_->setTabKeyNavigation(false);
    table_->setMinimumHeight(200);
    column_->addWidget(table_);
    detail_ = add_text(
        "Choose a mark to see what it is for. A distance in bold can be typed, or its mark dragged in TAPE.");
    detail_->setObjectName("markDetail");

    add_group("Does it go together");
    checks_ = new QVBoxLayout;
    checks_->setSpacing(2);
    column_->addLayout(checks_);

    form_ = add_group("Choices about the work");
    for (const auto& spec : work_numbers()) {
        auto* edit = add_quantity(form_, q(spec.label) + (spec.is_length() ? "" : ", %"),
                                  spec.is_length() ? QuantityEdit::Kind::length : QuantityEdit::Kind::number,
                                  q(spec.help));
        edit->set_may_be_empty(true);
        edit->setObjectName(q(spec.key));
        const auto key = spec.key;
        const auto label = q(spec.label);
        connect(edit, &QuantityEdit::entered, this, [this, key, label](double v) {
            session_.change_work("Set " + label, [&](WorkChoices& work) { work.numbers[key] = v; });
        });
        connect(edit, &QuantityEdit::cleared, this, [this, key, label] {
            session_.change_work("Usual " + label, [&](WorkChoices& work) { work.numbers.erase(key); });
        });
        numbers_[key] = edit;
        when_[key] = spec.when;
    }
    parked_ = add_text("");

    add_group("Full-size template");
    add_text("Strips to wrap round the cable. Print at 100 % and check the scale bars with a rule.", true);
    auto* files = new QHBoxLayout;
    paper_ = new QComboBox;
    for (const auto& paper : papers()) paper_->addItem(q(paper.name));
    paper_->setAccessibleName("Paper");
    files->addWidget(paper_);
    for (const char* ending : {"pdf", "svg", "dxf", "csv"}) {
        auto* button = new QPushButton(QString(ending).toUpper() + "…");
        button->setAccessibleName(QString(ending) == "csv"
                                      ? QString("Marks as CSV")
                                      : QString("Template as ") + QString(ending).toUpper());
        connect(button, &QPushButton::clicked, this, [this, ending] { save(ending); });
        files->addWidget(button);
    }
    files->addStretch();
    column_->addLayout(files);
    add_caution("Measure every mark a second time. The maker's instructions go before these figures.");
    column_->addStretch();

    connect(datum_, &QComboBox::activated, this, [this](int i) {
        std::optional<PlaceId> chosen; // the first is the family's own
        if (i > 0) chosen = place_of(datum_->itemText(i).toStdString());
        session_.change_work("Choose datum", [&](WorkChoices& work) { work.datum = chosen; });
    });
    connect(long_side_, &QComboBox::activated, this, [this](int i) {
        session_.change_work("Choose long side",
                             [&](WorkChoices& work) { work.long_side = i == 0 ? "a" : "b"; });
    });
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (!filling_ && row >= 0) open_mark(row);
    });
    connect(table_, &QTableWidget::cellChanged, this, [this](int row, int column) {
        if (!filling_ && column == 1) typed(row);
    });
    follow_design(session, this, &CutbacksPage::refresh);
    connect(&session, &Session::look_changed, this, &CutbacksPage::refresh);
    refresh();
}

void CutbacksPage::open_mark(int row) {
    const auto plan = session_.plan();
    if (!plan || row >= static_cast<int>(plan->marks.size())) return;
    const auto& m = plan->marks[row];
    session_.move_needle_to_z(m.z_mm);
    QStringList lines{
        QString("%1, %2 from the %3")
            .arg(q(m.label), q(both_units(std::abs(m.from_datum_mm))), q(name_of(plan->datum)))};
    if (!m.neighbour.empty())
        lines << QString("%1 from %2").arg(q(both_units(m.from_neighbour_mm)), q(m.neighbour));
    if (!m.cuts.empty())
        lines << "Cuts " + q(m.cuts) + (m.spares.empty() ? "" : ", must not touch " + q(m.spares));
    if (!m.tool.empty())
        lines << "Tool: " + q(m.tool) +
                     (m.blade_mm ? QString("; blade %1 mm").arg(*m.blade_mm, 0, 'f', 1) : "");
    lines << q(m.why);
    if (!m.verdicts.empty()) {
        QStringList names;
        for (const auto& v : m.verdicts) names << q(v);
        lines << "Verdicts that depend on it: " + names.join("; ") + ".";
    }
    detail_->setText(lines.join("\n"));
}

void CutbacksPage::typed(int row) {
    const auto plan = session_.plan();
    const auto prepared = session_.prepared();
    if (!plan || !prepared || row >= static_cast<int>(plan->marks.size())) return;
    const auto& m = plan->marks[row];
    const auto value = parse_length_mm(table_->item(row, 1)->text().toStdString(), session_.unit(), m.label);
    if (!value) {
        session_.tell(value.error()); // the text stays in its cell
        return;
    }
    const auto numbers = numbers_for(session_.document.job(), *prepared, session_.library(), m.place, *value);
    if (!numbers) {
        session_.tell(numbers.error());
        return;
    }
    session_.set_numbers(*numbers, q(m.label));
}

Result<void> CutbacksPage::save_to(const QString& path, const QString& paper) {
    const auto plan = session_.plan();
    const auto prepared = session_.prepared();
    if (!plan || !prepared)
        return refuse("Template", "the design has no cut plan", "Correct what the message above names");
    const auto file = path.toStdString();
    if (path.endsWith(".csv")) return write_file_safely(file, plan_csv(*plan));
    const auto strips = template_strips(*plan, *prepared);
    if (path.endsWith(".dxf")) return write_template_dxf(strips, file);
    if (path.endsWith(".svg")) return draw::write_template_svg(strips, prepared->design.title, file);
    for (const auto& p : papers())
        if (q(p.name) == paper) return draw::write_template_pdf(strips, p, prepared->design.title, file);
    return refuse("Paper", paper.toStdString() + " is not offered", "Choose A4 or Letter");
}

void CutbacksPage::save(const QString& ending) {
    const auto name =
        q(session_.document.design().id) + (ending == "csv" ? "-marks." : "-template.") + ending;
    auto path = QFileDialog::getSaveFileName(this, ending == "csv" ? "Save the marks" : "Save the template",
                                             name, QString("%1 (*.%2)").arg(ending.toUpper(), ending));
    if (path.isEmpty()) return;
    if (!path.endsWith("." + ending)) path += "." + ending;
    if (auto ok = save_to(path, paper_->currentText()); !ok) session_.tell(ok.error());
}

void CutbacksPage::refresh() {
    const auto plan = session_.plan();
    const auto prepared = session_.prepared();
    filling_ = true;
    qDeleteAll(lines_);
    lines_.clear();
    if (!plan || !prepared) {
        table_->setRowCount(0);
        detail_->setText(session_.plan_error() ? q(session_.plan_error()->message())
                                               : "No marks: correct what the message above names.");
        if (prepared && session_.plan_error()) { // what was chosen can be changed back
            const QSignalBlocker quiet(datum_);
            datum_->clear();
            datum_->addItem(q(name_of(prepared->built.datum)));
        }
        filling_ = false;
        return;
    }
    {
        const QSignalBlocker quiet(datum_);
        datum_->clear();
        for (const auto& d : plan->datums) datum_->addItem(q(name_of(d)));
        datum_->setCurrentText(q(name_of(plan->datum)));
    }
    const bool joint = plan->find(MarkKind::screen_edge, CableSide::b) != nullptr;
    long_side_->setCurrentIndex(plan->long_side == CableSide::a ? 0 : 1);
    long_side_->setEnabled(joint);
    table_->setRowCount(static_cast<int>(plan->marks.size()));
    const auto& theme = session_.theme();
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto& m = plan->marks[i];
        const QStringList words{q(m.label), q(format_length(m.from_datum_mm, session_.unit())),
                                m.tolerance_mm > 0 ? QString::number(m.tolerance_mm) + " mm" : ""};
        for (int c = 0; c < 3; ++c) {
            auto* item = table_->item(i, c);
            if (!item) table_->setItem(i, c, item = new QTableWidgetItem);
            const bool typed = c == 1 && !m.parameter.empty();
            item->setText(words[c]);
            item->setFlags(typed ? Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable
                                 : Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setFont(draw::ui_font(8.5, typed));
            item->setForeground(c == 2 ? theme.faint : theme.ink);
            item->setToolTip(q(m.why));
        }
    }
    table_->setFixedHeight(std::min(20 * table_->rowCount() + 26, 330));
    for (const auto& check : plan->checks) {
        auto* line = new StatusLine(session_, q(check.title), check.status,
                                    q(check.cure.empty() ? check.why : check.why + ". " + check.cure));
        checks_->addWidget(line);
        lines_.append(line);
    }
    const auto either_cable = [&](auto test) {
        return test(prepared->cable) || (prepared->other_cable && test(*prepared->other_cable));
    };
    for (auto& [key, edit] : numbers_) {
        const auto& when = when_[key];
        const bool shown =
            when == "armour" ? either_cable([](const Cable& c) { return c.armour != "none"; })
            : when == "shrink"
                ? std::any_of(prepared->built.placed.begin(), prepared->built.placed.end(),
                              [](const auto& part) { return part.kind == FitItem::Kind::shrink; })
            : when == "three cores" ? either_cable([](const Cable& c) { return c.cores == 3; })
                                    : joint;
        edit->setVisible(shown);
        if (auto* label = form_->labelForField(edit)) label->setVisible(shown);
        const auto& work = prepared->design.work;
        edit->show_value(work_number(work, key), !work.numbers.contains(key));
    }
    QStringList parked;
    for (const auto& part : plan->parked)
        parked << QString("%1, %2: side %3, over the %4")
                      .arg(q(part.part), q(format_length(part.length_mm, session_.unit())),
                           part.side == CableSide::a ? "A" : "B", part.over_jacket ? "jacket" : "core");
    parked_->setText(parked.isEmpty() ? "Nothing has to be parked."
                                      : "Parked before the connector:\n" + parked.join("\n"));
    filling_ = false;
}

} // namespace ng::app
