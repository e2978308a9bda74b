#include "app/stages/cable_page.h"
#include "app/stages/cable_library.h"
#include <QHeaderView>
#include <QSignalBlocker>
#include <fmt/format.h>
#include <set>

namespace ng::app {
namespace {

/// Words on screen and in the file.
const std::vector<std::pair<QString, std::string>> insulation_words{
    {"XLPE", "xlpe"}, {"TR-XLPE", "tr-xlpe"}, {"EPR", "epr"}, {"paper", "paper"}};

QStringList words_of(const std::vector<std::string>& words) {
    QStringList out;
    for (const auto& word : words) out << QString::fromStdString(word);
    return out;
}

} // namespace

CablePage::CablePage(Session& session, QWidget* parent) : Page(session, "Cable", parent) {
    add_choice_of_cable();
    add_conductor();
    add_insulation();
    add_screens_and_jacket();
    add_diameters();
    column_->addStretch();
    connect_fields();
}

void CablePage::add_choice_of_cable() {
    auto* choose = add_group("Which");
    which_ = add_wide_choice(choose, "Cable of this design", {});
    auto* firm = new QPushButton("The firm's cables…");
    column_->addWidget(firm, 0, Qt::AlignLeft);
    connect(firm, &QPushButton::clicked, this, [this] { CableLibrary(session_, this).exec(); });
    shared_ = add_text("");
    shared_->setObjectName("sharedCable");
    own_copy_ = new QPushButton("A copy for this design alone");
    column_->addWidget(own_copy_, 0, Qt::AlignLeft);
    connect(own_copy_, &QPushButton::clicked, this, [this] { session_.document.duplicate_cable(); });
    auto* is = add_group("What it is");
    title_ = add_name(is, "Name");
    connect(title_, &NameEdit::entered, this, [this](const QString& name) {
        edit("cable name", [&](Cable& c) { c.title = name.toStdString(); });
    });

    cores_ = add_choice(is, "Cores", {"one", "three"});
    cores_->setToolTip("Dimensions below are those of one core");
    connect(cores_, &QComboBox::activated, this,
            [this](int i) { edit("cores", [i](Cable& c) { c.cores = i == 0 ? 1 : 3; }); });
}

void CablePage::add_conductor() {
    auto* conductor = add_group("Conductor");
    QStringList sizes;
    std::set<std::string> seen;
    for (const auto& row : session_.library().cables.conductors)
        if (seen.insert(row.size).second) sizes << QString::fromStdString(row.size);
    size_ = add_choice(conductor, "Size", sizes, true);
    size_->setToolTip("Such as 4/0 AWG, 500 kcmil or 240 mm2");
    conductor_ = add_choice(conductor, "Material", words_of(cable_words().conductor_material));
    conductor_->setAccessibleName("Conductor material");
    stranding_ = add_choice(conductor, "Stranding", words_of(cable_words().stranding));
    conductor_screen_ =
        add_quantity(conductor, "Conductor screen", QuantityEdit::Kind::length, "About 0.4 to 0.6 mm");
}

void CablePage::add_insulation() {
    auto* insulation = add_group("Insulation");
    QStringList materials;
    for (const auto& [word, id] : insulation_words) materials << word;
    insulation_ = add_choice(insulation, "Material", materials);
    insulation_->setAccessibleName("Insulation material");
    QStringList classes, levels;
    for (const auto& row : session_.library().cables.insulations) {
        const auto c = QString::number(row.class_kV) + " kV", l = QString::fromStdString(row.level);
        if (!classes.contains(c)) classes << c;
        if (!levels.contains(l)) levels << l;
    }
    std::sort(classes.begin(), classes.end(), [](const QString& a, const QString& b) {
        return a.section(' ', 0, 0).toDouble() < b.section(' ', 0, 0).toDouble();
    });
    class_ = add_choice(insulation, "Class", classes);
    level_ = add_choice(insulation, "Level", levels);
    thickness_ =
        add_quantity(insulation, "Thickness", QuantityEdit::Kind::length, "Empty: from class and level");
    thickness_->set_may_be_empty(true);
    thickness_->set_step(0.1);
}

void CablePage::add_screens_and_jacket() {
    auto* outer = add_group("Screens and jacket");
    screen_ = add_quantity(outer, "Insulation screen", QuantityEdit::Kind::length, "About 0.6 to 1.0 mm");
    strippable_ = new QCheckBox("strippable");
    strippable_->setAccessibleName("Strippable insulation screen");
    outer->addRow("", strippable_);
    metallic_ = add_choice(outer, "Metallic screen", words_of(cable_words().metallic_screen));
    metallic_thickness_ =
        add_quantity(outer, "Screen build", QuantityEdit::Kind::length,
                     "Wire diameter, tape build, height of the corrugation, wall of a lead sheath");
    armour_ = add_choice(outer, "Armour", words_of(cable_words().armour));
    armour_thickness_ =
        add_quantity(outer, "Armour thickness", QuantityEdit::Kind::length, "Where there is armour");
    bedding_ = add_quantity(outer, "Bedding", QuantityEdit::Kind::length, "Beneath the armour");
    jacket_material_ = add_choice(outer, "Jacket of", words_of(cable_words().jacket_material));
    jacket_ = add_quantity(outer, "Jacket", QuantityEdit::Kind::length, "");
    for (auto* e : {conductor_screen_, screen_, metallic_thickness_, armour_thickness_, bedding_, jacket_})
        e->set_step(0.1);
}

void CablePage::add_diameters() {
    add_group("Diameters");
    layers_ = new QTableWidget(static_cast<int>(cable_layers().size()), 3);
    layers_->setHorizontalHeaderLabels({"over", "diameter", "measured"});
    layers_->setObjectName("layers");
    layers_->verticalHeader()->hide();
    layers_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    layers_->setColumnWidth(1, 78);
    layers_->setColumnWidth(2, 78);
    layers_->setMinimumWidth(100);
    layers_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    layers_->verticalHeader()->setDefaultSectionSize(22);
    layers_->setFixedHeight(22 * 6 + 26);
    layers_->setAccessibleName("Diameters, derived and measured");
    layers_->setTabKeyNavigation(false);
    column_->addWidget(layers_);
    overall_ = add_text("");
    overall_->setObjectName("overall");
    contradiction_ = add_text("");
    contradiction_->setObjectName("contradiction");
    add_text("Type a caliper reading into “measured”: it goes before the table. Clear it to go back.", true);
    electrical_ = add_text("");
    add_caution("Identify and prove the cable dead by the local rules before it is cut or measured. This "
                "tool never says that a cable is safe to touch.");
}

void CablePage::connect_fields() {
    connect(which_, &QComboBox::activated, this, [this](int index) {
        const auto id = session_.document.job().cables.at(static_cast<std::size_t>(index)).id;
        const auto design = session_.document.job().open_design;
        session_.document.edit("Choose cable", {}, [&](Job& job) { job.find_design(design)->cable_id = id; });
    });
    auto text_field = [this](QComboBox* box, const QString& what, std::string Cable::*field) {
        auto take = [this, box, what, field] {
            edit(what, [&](Cable& c) { c.*field = box->currentText().trimmed().toStdString(); });
        };
        connect(box, &QComboBox::activated, this, take);
        if (box->isEditable()) connect(box->lineEdit(), &QLineEdit::editingFinished, this, take);
    };
    text_field(size_, "conductor size", &Cable::conductor_size);
    text_field(conductor_, "conductor material", &Cable::conductor_material);
    text_field(stranding_, "stranding", &Cable::stranding);
    text_field(level_, "insulation level", &Cable::insulation_level);
    text_field(metallic_, "metallic screen", &Cable::metallic_screen);
    text_field(armour_, "armour", &Cable::armour);
    text_field(jacket_material_, "jacket material", &Cable::jacket_material);
    connect(insulation_, &QComboBox::activated, this, [this](int i) {
        edit("insulation", [i](Cable& c) { c.insulation_material = insulation_words[i].second; });
    });
    connect(class_, &QComboBox::activated, this, [this] {
        edit("insulation class",
             [&](Cable& c) { c.insulation_class_kV = class_->currentText().split(' ').first().toDouble(); });
    });
    connect(strippable_, &QCheckBox::clicked, this,
            [this](bool on) { edit("strippable screen", [on](Cable& c) { c.strippable_screen = on; }); });
    connect(thickness_, &QuantityEdit::entered, this, [this](double v) {
        edit("insulation thickness", [v](Cable& c) { c.insulation_thickness_mm = v; });
    });
    connect(thickness_, &QuantityEdit::cleared, this,
            [this] { edit("insulation thickness", [](Cable& c) { c.insulation_thickness_mm.reset(); }); });
    auto number_field = [this](QuantityEdit* e, const QString& what, double Cable::*field) {
        connect(e, &QuantityEdit::entered, this,
                [this, what, field](double v) { edit(what, [&](Cable& c) { c.*field = v; }); });
    };
    number_field(conductor_screen_, "conductor screen", &Cable::conductor_screen_thickness_mm);
    number_field(screen_, "insulation screen", &Cable::insulation_screen_thickness_mm);
    number_field(metallic_thickness_, "metallic screen", &Cable::metallic_screen_thickness_mm);
    number_field(armour_thickness_, "armour thickness", &Cable::armour_thickness_mm);
    number_field(bedding_, "bedding", &Cable::bedding_thickness_mm);
    number_field(jacket_, "jacket", &Cable::jacket_thickness_mm);
    connect(layers_, &QTableWidget::cellChanged, this, [this](int row, int column) {
        if (!filling_ && column == 2) measure(row, layers_->item(row, column)->text());
    });
    follow_design(session_, this, &CablePage::refresh);
    connect(&session_, &Session::look_changed, this, &CablePage::refresh);
    refresh();
}

void CablePage::edit(const QString& what, const std::function<void(Cable&)>& change) {
    const auto id = session_.document.cable().id;
    session_.document.edit("Set " + what, {}, [&](Job& job) {
        for (auto& cable : job.cables)
            if (cable.id == id) change(cable);
    });
}

void CablePage::measure(int row, const QString& text) {
    const auto layer = cable_layers().at(static_cast<std::size_t>(row));
    if (text.trimmed().isEmpty()) {
        edit("measured " + QString::fromStdString(layer),
             [&](Cable& c) { c.measured_diameter_mm.erase(layer); });
        return;
    }
    const auto value =
        parse_length_mm(text.toStdString(), session_.unit(), "measured diameter over " + layer);
    if (!value) {
        session_.tell(value.error());
        return; // the text stays in its cell
    }
    edit("measured " + QString::fromStdString(layer),
         [&](Cable& c) { c.measured_diameter_mm[layer] = *value; });
}

void CablePage::refresh() {
    const auto& job = session_.document.job();
    const auto& cable = session_.document.cable();
    {
        const QSignalBlocker quiet(which_);
        which_->clear();
        for (const auto& c : job.cables) which_->addItem(QString::fromStdString(c.title));
        for (std::size_t i = 0; i < job.cables.size(); ++i)
            if (job.cables[i].id == cable.id) which_->setCurrentIndex(static_cast<int>(i));
    }
    title_->show_name(QString::fromStdString(cable.title));
    QStringList others;
    for (const auto& d : job.designs)
        if (d.id != job.open_design && (d.cable_id == cable.id || d.other_cable_id == cable.id))
            others << QString::fromStdString(d.title);
    shared_->setText("What is changed here changes it in these designs too: " + others.join(", ") + ".");
    shared_->setVisible(!others.isEmpty());
    own_copy_->setVisible(!others.isEmpty());
    cores_->setCurrentIndex(cable.cores == 3 ? 1 : 0);
    show_text(size_, QString::fromStdString(cable.conductor_size));
    show_text(conductor_, QString::fromStdString(cable.conductor_material));
    show_text(stranding_, QString::fromStdString(cable.stranding));
    for (const auto& [word, id] : insulation_words)
        if (id == cable.insulation_material) show_text(insulation_, word);
    show_text(class_, QString::number(cable.insulation_class_kV) + " kV");
    show_text(level_, QString::fromStdString(cable.insulation_level));
    show_text(metallic_, QString::fromStdString(cable.metallic_screen));
    strippable_->setChecked(cable.strippable_screen);
    conductor_screen_->show_value(cable.conductor_screen_thickness_mm, false);
    screen_->show_value(cable.insulation_screen_thickness_mm, false);
    metallic_thickness_->show_value(cable.metallic_screen_thickness_mm, false);
    show_text(armour_, QString::fromStdString(cable.armour));
    armour_thickness_->show_value(cable.armour_thickness_mm, false);
    bedding_->show_value(cable.bedding_thickness_mm, false);
    for (auto* e : {armour_thickness_, bedding_}) e->setEnabled(cable.armour != "none");
    show_text(jacket_material_, QString::fromStdString(cable.jacket_material));
    jacket_->show_value(cable.jacket_thickness_mm, false);
    // A thickness that is typed goes before class and level.
    for (auto* box : {class_, level_}) {
        box->setEnabled(!cable.insulation_thickness_mm);
        box->setToolTip(cable.insulation_thickness_mm
                            ? "A thickness is typed below: clear it to take it from class and level"
                            : "");
    }
    for (auto* e : {armour_thickness_, bedding_})
        e->setToolTip(cable.armour == "none" ? "This cable has no armour"
                                             : "Up and Down nudge it (Shift ×10, Alt ÷10)");

    const auto dimensions = derive_dimensions(cable, session_.library().cables);
    if (!dimensions) return; // the window shows why
    thickness_->show_value(dimensions->layer("insulation").thickness_mm, !cable.insulation_thickness_mm);
    const auto overall = overall_dimensions(cable, *dimensions);
    QStringList over_all;
    const auto over = [&](const QString& what, double diameter) {
        if (diameter > 0)
            over_all << what + " " + QString::fromStdString(format_length(diameter, session_.unit()));
    };
    if (cable.cores == 3) over("laid-up cores", overall.laid_up_mm);
    over("bedding", overall.bedding_mm);
    over("armour", overall.armour_mm);
    if (!over_all.isEmpty()) over("overall jacket", overall.jacket_mm);
    overall_->setText("Diameters over " + over_all.join(", ") + ".");
    overall_->setVisible(!over_all.isEmpty());
    filling_ = true;
    for (int row = 0; row < layers_->rowCount(); ++row) {
        const auto& layer = dimensions->layers.at(static_cast<std::size_t>(row));
        auto put = [&](int column, const QString& text, bool editable) {
            // Kept and rewritten, not replaced: the change of one of them may be what brought us here.
            auto* item = layers_->item(row, column);
            if (!item) layers_->setItem(row, column, item = new QTableWidgetItem);
            item->setText(text);
            if (!editable) item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setToolTip(QString::fromStdString(layer.note));
            if (column > 0) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        };
        const bool of_all = cable.cores == 3 && layer.name == "jacket";
        put(0, of_all ? QString("jacket, over all") : QString::fromStdString(layer.name), false);
        put(1,
            QString::fromStdString(
                format_length(of_all ? overall.jacket_mm : layer.diameter_mm, session_.unit())),
            false);
        const auto it = cable.measured_diameter_mm.find(layer.name);
        put(2,
            it == cable.measured_diameter_mm.end()
                ? QString()
                : QString::fromStdString(format_length(it->second, session_.unit())),
            true);
    }
    filling_ = false;
    QStringList contradictions;
    for (const auto& layer : dimensions->layers)
        if (!layer.contradiction.empty()) contradictions << QString::fromStdString(layer.contradiction);
    contradiction_->setText(contradictions.join("\n"));
    contradiction_->setVisible(!contradictions.isEmpty());
    if (const auto prepared = session_.prepared()) {
        const auto& e = prepared->electrical;
        const auto& d = prepared->dimensions;
        electrical_->setText(QString::fromStdString(words_in_stress_unit(
            fmt::format("Conductor {:.0f} mm², {}.\nCapacitance {:.0f} pF/m · charging current {:.2f} A/km "
                        "at U0 {:.2f} "
                        "kV.\nRadial stress at U0: {:.2f} kV/mm rms at the conductor screen, {:.2f} "
                        "kV/mm rms at the insulation screen.",
                        d.conductor_area_mm2, d.layer("conductor").note, 1e12 * e.capacitance_F_per_m,
                        1e3 * e.charging_current_A_per_m, prepared->design.duty.u0(),
                        e.stress_conductor_screen_kV_per_mm, e.stress_insulation_screen_kV_per_mm),
            session_.stress_unit())));
    }
}

} // namespace ng::app
