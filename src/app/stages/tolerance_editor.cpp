#include "app/stages/tolerance_editor.h"
#include "app/model/text.h"
#include "app/stages/form_dialog.h"
#include "document/tolerance_io.h"
#include "study/study.h"
#include "units/quantity.h"
#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <set>

namespace ng::app {
namespace {

constexpr int fixed_row = 0; // of the laws: it does not vary

bool is_length(const std::string& key) {
    return key.ends_with("_mm");
}

QString figure(double value, bool length, LengthUnit unit) {
    return length ? q(format_length(value, unit)) : QString::number(value, 'g', 4);
}

/// A spread: of lengths with one figure more than they are read to.
QString spread_figure(double value, bool length, LengthUnit unit) {
    if (!length) return QString::number(value, 'g', 3);
    return unit == LengthUnit::mm ? QString("%1 mm").arg(value, 0, 'g', 3)
                                  : QString("%1 in").arg(value / mm_per_inch, 0, 'g', 3);
}

QString spread_words(const Varied& v, LengthUnit unit) {
    const bool length = is_length(v.key);
    const auto spread = spread_figure(v.spread, length, unit);
    switch (v.law) {
    case Law::uniform:
        return "± " + spread + ", even";
    case Law::lognormal:
        return QString("times or over %1").arg(v.spread, 0, 'g', 3);
    case Law::normal:
        break;
    }
    auto out = "sigma " + spread;
    if (v.blunder_share > 0)
        out += QString(", %1 % off by %2")
                   .arg(100 * v.blunder_share, 0, 'g', 2)
                   .arg(spread_figure(v.blunder, length, unit));
    return out;
}

/// What varies above, by what below it in faint type.
class RowDelegate : public QStyledItemDelegate {
  public:
    RowDelegate(Session& session, QObject* parent) : QStyledItemDelegate(parent), session_(session) {}
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex&) const override {
        return {100, 2 * option.fontMetrics.height() + 6};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& at) const override {
        const auto& theme = session_.theme();
        const auto lines = at.data().toString().split('\n');
        const auto font =
            at.data(Qt::FontRole).isValid() ? at.data(Qt::FontRole).value<QFont>() : option.font;
        const QRect inner = option.rect.adjusted(6, 2, -6, -2);
        const int line = option.fontMetrics.height();
        painter->save();
        if (option.state & QStyle::State_Selected) {
            painter->fillRect(QRect(option.rect.topLeft(), QSize(3, option.rect.height())), theme.accent);
            if (option.state & QStyle::State_HasFocus) {
                painter->setPen(theme.accent);
                painter->drawRect(option.rect.adjusted(0, 0, -1, -1));
            }
        }
        painter->setPen(theme.line);
        painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
        const auto write = [&](int row, const QColor& colour) {
            painter->setPen(colour);
            painter->drawText(
                QRect(inner.left(), inner.top() + row * line, inner.width(), line),
                Qt::AlignLeft | Qt::AlignVCenter,
                QFontMetrics(painter->font()).elidedText(lines.value(row), Qt::ElideRight, inner.width()));
        };
        painter->setFont(font);
        write(0, theme.ink);
        painter->setFont(option.font);
        write(1, theme.faint);
        painter->restore();
    }

  private:
    Session& session_;
};

const InputError nobody_says_so{"Where from", "it is empty",
                                "Say who measured it, or which document or practice says so"};

} // namespace

ToleranceDialog::ToleranceDialog(const Variable& variable, const std::optional<Tolerance>& now,
                                 LengthUnit unit, QWidget* parent)
    : QDialog(parent), variable_(variable), unit_(unit), is_length_(is_length(variable.key)) {
    setObjectName("toleranceDialog");
    Tolerance shown;
    if (now)
        shown = *now;
    else if (const auto& usual = variable.usual)
        shown = {true, usual->law, usual->spread, usual->blunder_share, usual->blunder, {}, {}, "", {}};
    else
        shown.spread = 0.05 * variable.middle;
    form_ = new QFormLayout;
    law_ = new QComboBox;
    law_->setAccessibleName("How it varies");
    law_->addItems({"not at all", "normal", "even between two ends", "lognormal"});
    law_->setCurrentIndex(shown.varies ? 1 + static_cast<int>(shown.law) : fixed_row);
    form_->addRow("It varies", law_);
    if (!shown.varies && variable.usual)
        shown.law = variable.usual->law, shown.spread = variable.usual->spread;
    spread_ = add_line(form_, "Standard deviation", written(shown.spread, shown.law != Law::lognormal));
    share_ = add_line(form_, "Off by mistake, %", QString::number(100 * shown.blunder_share, 'g', 3));
    blunder_ = add_line(form_, "and then by", written(shown.blunder));
    lowest_ = add_line(form_, "Never below", shown.lowest ? written(*shown.lowest) : QString());
    highest_ = add_line(form_, "Never above", shown.highest ? written(*shown.highest) : QString());
    lowest_->setPlaceholderText("as far as it can be built");
    highest_->setPlaceholderText("as far as it can be built");
    provenance_ = add_line(form_, "Where from", q(shown.provenance));
    provenance_->setPlaceholderText("who measured it, which document");
    reach_ = new QLabel;
    reach_->setWordWrap(true);
    reach_->setProperty("faint", true);
    form_->addRow(reach_);
    std::vector<DialogButton> buttons{{"Use it", [this] { take(); }, true}};
    if (now)
        buttons.push_back({variable.usual ? "Back to the usual" : "Leave it as designed", [this] {
                               result_.reset();
                               accept();
                           }});
    problem_ =
        set_out(this, "How a quantity varies",
                q(variable.label) + ", " + figure(variable.middle, is_length_, unit), {}, form_, buttons);
    connect(law_, &QComboBox::activated, this, &ToleranceDialog::show_law);
    for (auto* line : {spread_, share_, blunder_, lowest_, highest_})
        connect(line, &QLineEdit::textChanged, this, &ToleranceDialog::show_reach);
    show_law();
}

QString ToleranceDialog::written(double value, bool in_unit) const {
    return spread_figure(value, is_length_ && in_unit, unit_);
}

Result<double> ToleranceDialog::number_of(const QLineEdit& line, const std::string& item,
                                          bool in_unit) const {
    const auto text = line.text().toStdString();
    return is_length_ && in_unit ? parse_length_mm(text, unit_, item) : parse_number(text, "", item);
}

void ToleranceDialog::show_law() {
    const int row = law_->currentIndex();
    const auto law = static_cast<Law>(std::max(0, row - 1));
    const bool varies = row != fixed_row;
    auto* name = static_cast<QLabel*>(form_->labelForField(spread_));
    name->setText(law == Law::normal    ? "Standard deviation"
                  : law == Law::uniform ? "Half of the range"
                                        : "Times or over");
    spread_->setAccessibleName(name->text());
    spread_->setEnabled(varies);
    for (auto* line : {lowest_, highest_}) line->setEnabled(varies);
    for (auto* line : {share_, blunder_}) line->setEnabled(varies && law == Law::normal);
    show_reach();
}

Result<Tolerance> ToleranceDialog::typed() const {
    Tolerance out;
    out.provenance = provenance_->text().trimmed().toStdString();
    out.varies = law_->currentIndex() != fixed_row;
    if (!out.varies) return out;
    out.law = static_cast<Law>(law_->currentIndex() - 1);
    const auto spread =
        number_of(*spread_, spread_->accessibleName().toStdString(), out.law != Law::lognormal);
    if (!spread) return tl::unexpected(spread.error());
    out.spread = *spread;
    if (out.law == Law::normal) {
        const auto share = parse_number(share_->text().toStdString(), "%", "Off by mistake");
        if (!share) return tl::unexpected(share.error());
        out.blunder_share = *share / 100;
        if (out.blunder_share > 0) {
            const auto blunder = number_of(*blunder_, "Off by");
            if (!blunder) return tl::unexpected(blunder.error());
            out.blunder = *blunder;
        }
    }
    for (const auto& [line, item, bound] : {std::tuple(lowest_, "Never below", &out.lowest),
                                            std::tuple(highest_, "Never above", &out.highest)}) {
        if (line->text().trimmed().isEmpty()) continue;
        const auto value = number_of(*line, item);
        if (!value) return tl::unexpected(value.error());
        *bound = *value;
    }
    if (auto drawn = variable_.varied(&out); !drawn) return tl::unexpected(drawn.error());
    return out;
}

void ToleranceDialog::show_reach() {
    problem_->hide();
    const auto tolerance = typed();
    if (!tolerance) return reach_->setText(q(tolerance.error().message()));
    if (!tolerance->varies) return reach_->setText("Every build has it as designed.");
    const auto v = **variable_.varied(&*tolerance);
    reach_->setText(
        QString("99 of 100 between %1 and %2")
            .arg(figure(v.quantile(0.005), is_length_, unit_), figure(v.quantile(0.995), is_length_, unit_)));
}

void ToleranceDialog::take() {
    auto tolerance = typed();
    if (!tolerance) return complain(problem_, tolerance.error());
    if (tolerance->provenance.empty()) {
        provenance_->setFocus();
        return complain(problem_, nobody_says_so);
    }
    result_ = std::move(*tolerance);
    accept();
}

CorrelationDialog::CorrelationDialog(std::vector<std::pair<std::string, std::string>> keys,
                                     const Correlated* now, QWidget* parent)
    : QDialog(parent), keys_(std::move(keys)) {
    setObjectName("correlationDialog");
    auto* form = new QFormLayout;
    const auto box = [&](const QString& label, const std::string& key, int otherwise) {
        auto* out = new QComboBox;
        out->setAccessibleName(label);
        for (const auto& [one, words] : keys_) out->addItem(q(words));
        out->setCurrentIndex(otherwise);
        for (std::size_t k = 0; k < keys_.size(); ++k)
            if (keys_[k].first == key) out->setCurrentIndex(static_cast<int>(k));
        form->addRow(label, out);
        return out;
    };
    a_ = box("This", now ? now->a : "", 0);
    b_ = box("moves with", now ? now->b : "", 1);
    rho_ = add_line(form, "Correlation, -1 to 1", QString::number(now ? now->rho : 0.8, 'g', 3));
    provenance_ = add_line(form, "Where from", now ? q(now->provenance) : QString());
    provenance_->setPlaceholderText("who measured it, which hand sets both");
    std::vector<DialogButton> buttons{{"Use it", [this] { take(); }, true}};
    if (now)
        buttons.push_back({"They do not", [this] {
                               result_.reset();
                               accept();
                           }});
    problem_ = set_out(this, "What moves together", "Two quantities that one hand sets", {}, form, buttons);
}

void CorrelationDialog::take() {
    const auto rho = parse_number(rho_->text().toStdString(), "", "Correlation");
    if (!rho) return complain(problem_, rho.error());
    if (provenance_->text().trimmed().isEmpty()) return complain(problem_, nobody_says_so);
    const auto key = [&](const QComboBox* box) {
        return keys_.at(static_cast<std::size_t>(box->currentIndex())).first;
    };
    const Correlated made{key(a_), key(b_), *rho, provenance_->text().trimmed().toStdString()};
    // By the reader's own rules.
    const auto read = read_correlations(nlohmann::json::array({correlation_json(made)}), "the design");
    if (!read) return complain(problem_, read.error());
    result_ = made;
    accept();
}

ToleranceEditor::ToleranceEditor(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    list_ = new QListWidget;
    list_->setAccessibleName("What varies");
    list_->setItemDelegate(new RowDelegate(session, list_));
    // It is as high as its rows and scrolls with the page.
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(list_);
    auto* row = new QHBoxLayout;
    change_ = new QPushButton("Change…");
    join_ = new QPushButton("Two that move together…");
    row->addWidget(change_);
    row->addWidget(join_);
    row->addStretch();
    column->addLayout(row);
    more_ = new QComboBox;
    more_->setAccessibleName("Vary more");
    more_->setFocusPolicy(Qt::StrongFocus);
    more_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    column->addWidget(more_);
    problem_ = new QLabel;
    problem_->setWordWrap(true);
    problem_->setProperty("caution", true);
    column->addWidget(problem_);
    sources_ = new QLabel;
    sources_->setWordWrap(true);
    sources_->setProperty("faint", true);
    sources_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(sources_);
    connect(change_, &QPushButton::clicked, this, &ToleranceEditor::change);
    connect(list_, &QListWidget::itemActivated, this, &ToleranceEditor::change);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int at) { change_->setEnabled(at >= 0); });
    connect(join_, &QPushButton::clicked, this, &ToleranceEditor::join);
    connect(more_, &QComboBox::activated, this, &ToleranceEditor::vary_more);
    const auto follow = [this] {
        if (isVisible()) refresh();
    };
    connect(&session, &Session::prepared_changed, this, follow);
    connect(&session, &Session::look_changed, this, follow);
}

void ToleranceEditor::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

void ToleranceEditor::refresh() {
    const auto prepared = session_.prepared();
    if (!prepared) return;
    const QSignalBlocker quiet(list_), still(more_);
    const int at = list_->currentRow();
    variables_ = variables_of(*prepared, session_.with_faults());
    more_of_.clear();
    list_->clear();
    more_->clear();
    more_->addItem("Vary more…");
    const auto& own = prepared->design.tolerances;
    std::set<std::string> sources;
    QString problem;
    const auto add = [&](const QString& text, std::size_t number, bool of_user) {
        auto* item = new QListWidgetItem(text, list_);
        item->setData(Qt::UserRole, static_cast<qulonglong>(number));
        if (!of_user) return;
        auto font = item->font();
        font.setBold(true);
        item->setFont(font);
    };
    for (std::size_t k = 0; k < variables_.size(); ++k) {
        const auto& v = variables_[k];
        const auto it = own.find(v.key);
        const auto* tolerance = it == own.end() ? nullptr : &it->second;
        const auto varied = v.varied(tolerance);
        if (!varied) problem = q(varied.error().message());
        if (!tolerance && !*varied) {
            more_->addItem(q(v.label));
            more_of_.push_back(k);
            continue;
        }
        const auto words = !varied    ? QString("cannot be drawn")
                           : !*varied ? QString("not at all")
                                      : spread_words(**varied, session_.unit());
        add(q(v.label) + "\n" + words, k, tolerance);
        sources.insert(tolerance ? v.label + ": " + tolerance->provenance : v.provenance);
    }
    const auto label_of = [&](const std::string& key) {
        for (const auto& v : variables_)
            if (v.key == key) return q(v.label);
        return q(key);
    };
    for (std::size_t k = 0; k < prepared->design.correlated.size(); ++k) {
        const auto& c = prepared->design.correlated[k];
        add(QString("%1 with %2\ncorrelation %3").arg(label_of(c.a), label_of(c.b)).arg(c.rho, 0, 'g', 3),
            variables_.size() + k, true);
        if (!c.provenance.empty()) sources.insert("together: " + c.provenance);
    }
    list_->setCurrentRow(std::min(at, list_->count() - 1));
    list_->setFixedHeight(2 * list_->frameWidth() + list_->count() * std::max(0, list_->sizeHintForRow(0)));
    change_->setEnabled(list_->currentRow() >= 0);
    join_->setEnabled(varying().size() > 1);
    problem_->setText(problem);
    problem_->setHidden(problem.isEmpty());
    QStringList lines{"Bold: your own. Where the rest comes from:"};
    for (const auto& source : sources) lines << q(source);
    sources_->setText(lines.join("\n"));
}

std::vector<std::pair<std::string, std::string>> ToleranceEditor::varying() const {
    std::vector<std::pair<std::string, std::string>> out;
    if (const auto prepared = session_.prepared())
        if (const auto plan = design_plan(*prepared, session_.with_faults()))
            for (const auto& v : plan->varied) out.emplace_back(v.key, v.label);
    return out;
}

void ToleranceEditor::change() {
    const auto* item = list_->currentItem();
    if (!item) return;
    const auto number = static_cast<std::size_t>(item->data(Qt::UserRole).toULongLong());
    if (number < variables_.size())
        ask_tolerance(variables_[number]);
    else
        ask_correlation(number - variables_.size());
}

void ToleranceEditor::vary_more() {
    const int row = more_->currentIndex();
    more_->setCurrentIndex(0);
    if (row > 0 && row <= static_cast<int>(more_of_.size()))
        ask_tolerance(variables_[more_of_[static_cast<std::size_t>(row) - 1]]);
}

void ToleranceEditor::join() {
    ask_correlation(session_.document.design().correlated.size());
}

void ToleranceEditor::ask_tolerance(const Variable& variable) {
    const auto& own = session_.document.design().tolerances;
    const auto it = own.find(variable.key);
    ToleranceDialog dialog(variable, it == own.end() ? std::nullopt : std::optional(it->second),
                           session_.unit(), this);
    if (dialog.exec() == QDialog::Accepted) set_tolerance(variable.key, dialog.tolerance());
}

void ToleranceEditor::ask_correlation(std::size_t number) {
    const auto& own = session_.document.design().correlated;
    auto keys = varying();
    if (number < own.size()) // also where one of them varies no more
        for (const auto& key : {own[number].a, own[number].b})
            if (std::none_of(keys.begin(), keys.end(), [&](const auto& k) { return k.first == key; }))
                keys.emplace_back(key, key);
    if (keys.size() < 2) return;
    CorrelationDialog dialog(std::move(keys), number < own.size() ? &own[number] : nullptr, this);
    if (dialog.exec() == QDialog::Accepted) set_correlation(number, dialog.correlated());
}

void ToleranceEditor::set_tolerance(const std::string& key, const std::optional<Tolerance>& tolerance) {
    session_.document.edit("Change what varies", {}, [&, id = session_.document.design().id](Job& job) {
        auto& own = job.find_design(id)->tolerances;
        if (tolerance)
            own[key] = *tolerance;
        else
            own.erase(key);
    });
}

void ToleranceEditor::set_correlation(std::size_t number, const std::optional<Correlated>& correlated) {
    session_.document.edit("Change what moves together", {},
                           [&, id = session_.document.design().id](Job& job) {
                               auto& own = job.find_design(id)->correlated;
                               if (correlated && number < own.size())
                                   own[number] = *correlated;
                               else if (correlated)
                                   own.push_back(*correlated);
                               else if (number < own.size())
                                   own.erase(own.begin() + static_cast<std::ptrdiff_t>(number));
                           });
}

} // namespace ng::app
