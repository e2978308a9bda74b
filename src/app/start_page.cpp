#include "app/start_page.h"
#include "app/model/text.h"
#include "draw/section_picture.h"
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <set>

namespace ng::app {

class StartPage::Picture : public QWidget {
  public:
    explicit Picture(StartPage& page) : QWidget(&page), page_(page) {
        setMinimumHeight(230);
        setAccessibleName("Section of the new design");
    }
    std::optional<PreparedDesign> prepared;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        const auto& theme = page_.session_.theme();
        painter.fillRect(rect(), theme.paper);
        if (!prepared) return;
        painter.setRenderHint(QPainter::Antialiasing);
        const auto& built = prepared->built;
        draw::View view;
        view.datum_z_mm = built.datum_z_mm;
        view.z_scale_px = (width() - 20) / (built.view_z1_mm - built.view_z0_mm);
        view.x_of_datum_px = width() - 10 - (built.view_z1_mm - built.datum_z_mm) * view.z_scale_px;
        view.axis_y_px = height() - 8;
        view.r0_mm = built.view_r0_mm;
        view.r_scale_px = -(height() - 52) / (built.view_r_mm - built.view_r0_mm);
        draw::paint_section(painter, built.section, built.parts, view, theme);
        draw::paint_part_labels(painter, draw::Labelled(built), view, QRectF(rect()), theme);
    }

  private:
    StartPage& page_;
};

QComboBox* StartPage::add_choice(QHBoxLayout* row, const QString& label, const QStringList& words,
                                 const QString& name) {
    auto* column = new QVBoxLayout;
    auto* text = new QLabel(label);
    text->setFont(draw::ui_font(9));
    auto* box = new QComboBox;
    box->addItems(words);
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setMinimumHeight(34);
    box->setFont(draw::ui_font(10.5));
    column->addWidget(text);
    column->addWidget(box);
    row->addLayout(column);
    connect(box, &QComboBox::currentIndexChanged, this, &StartPage::refresh);
    return box;
}

StartPage::StartPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("startPage");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(48, 30, 48, 30);
    column->setSpacing(12);
    const auto heading = [&](const QString& text, double points) {
        auto* label = new QLabel(text);
        label->setFont(draw::ui_font(points, true));
        column->addWidget(label);
    };
    heading("Begin with a cable", 18);
    const auto& library = session.library();
    QStringList classes, sizes, levels, families, screens;
    std::set<double> kV;
    std::set<std::string> seen;
    for (const auto& row : library.cables.insulations) {
        kV.insert(row.class_kV);
        if (!levels.contains(q(row.level))) levels << q(row.level);
    }
    for (const double c : kV) classes << QString::number(c) + " kV";
    for (const auto& row : library.cables.conductors)
        if (seen.insert(row.size).second) sizes << q(row.size);
    for (const auto& s : cable_words().metallic_screen) screens << q(s);
    for (const auto& f : library.families)
        if (f.id != "drawn_body") families << q(f.title);
    auto* row = new QHBoxLayout;
    class_ = add_choice(row, "Class", classes, "startClass");
    conductor_ = add_choice(row, "Conductor", {"copper", "aluminium"}, "startConductor");
    size_ = add_choice(row, "Size", sizes, "startSize");
    level_ = add_choice(row, "Insulation level", levels, "startLevel");
    screen_ = add_choice(row, "Metallic screen", screens, "startScreen");
    family_ = add_choice(row, "Accessory", families, "startFamily");
    row->addStretch();
    column->addLayout(row);
    picture_ = new Picture(*this);
    column->addWidget(picture_, 1);
    says_ = new QLabel;
    says_->setWordWrap(true);
    says_->setObjectName("startSays");
    column->addWidget(says_);
    begin_ = new QPushButton("Judge it");
    begin_->setMinimumHeight(40);
    begin_->setFont(draw::ui_font(12, true));
    begin_->setDefault(true);
    column->addWidget(begin_, 0, Qt::AlignLeft);
    heading("Or go on with", 12);
    auto* bottom = new QHBoxLayout;
    recent_ = new QListWidget;
    recent_->setAccessibleName("Recent jobs");
    recent_->setMaximumHeight(110);
    auto* other = new QPushButton("Another file…");
    auto* demo = new QPushButton("The demo job");
    for (auto* b : {other, demo}) {
        b->setMinimumHeight(34);
        b->setFixedWidth(180);
    }
    auto* buttons = new QVBoxLayout;
    buttons->addWidget(demo);
    buttons->addWidget(other);
    buttons->addStretch();
    bottom->addWidget(recent_, 1);
    bottom->addLayout(buttons);
    bottom->addStretch();
    column->addLayout(bottom);
    connect(begin_, &QPushButton::clicked, this, [this] {
        if (auto job = chosen()) emit begun(job->job);
    });
    connect(demo, &QPushButton::clicked, this, &StartPage::wants_demo);
    connect(other, &QPushButton::clicked, this, &StartPage::wants_other);
    connect(recent_, &QListWidget::itemActivated, this,
            [this](QListWidgetItem* item) { emit wants_file(item->data(Qt::UserRole).toString()); });
    connect(recent_, &QListWidget::itemClicked, this,
            [this](QListWidgetItem* item) { emit wants_file(item->data(Qt::UserRole).toString()); });
    class_->setCurrentText("15 kV");
    size_->setCurrentText("4/0 AWG");
    refresh();
}

void StartPage::set_recent(const QStringList& paths) {
    recent_->clear();
    for (const auto& path : paths) {
        auto* item = new QListWidgetItem(path.section('/', -1));
        item->setData(Qt::UserRole, path);
        item->setToolTip(path);
        recent_->addItem(item);
    }
    recent_->setVisible(!paths.isEmpty());
}

Result<StartPage::Chosen> StartPage::chosen() const {
    auto job = new_job();
    const auto& library = session_.library();
    const Family* family = nullptr;
    for (const auto& f : library.families)
        if (q(f.title) == family_->currentText()) family = &f;
    if (!family) return refuse("Accessory", "none is chosen", "Choose one");
    auto& cable = job.cables.front();
    cable.insulation_class_kV = class_->currentText().section(' ', 0, 0).toDouble();
    cable.conductor_material = conductor_->currentText().toStdString();
    cable.conductor_size = size_->currentText().toStdString();
    cable.insulation_level = level_->currentText().toStdString();
    cable.metallic_screen = screen_->currentText().toStdString();
    cable.title = QString("%1 kV, %2 %3")
                      .arg(cable.insulation_class_kV)
                      .arg(size_->currentText(), conductor_->currentText())
                      .toStdString();
    auto& design = job.designs.front();
    design.family = family->id;
    design.title = family->title;
    design.numbers.clear();
    design.choices.clear();
    design.duty.standard = family->usual_standard;
    const DutyClass* of_cable = nullptr;
    for (const auto& pack : library.standards)
        if (pack.id == design.duty.standard) of_cable = pack.for_cable(cable.insulation_class_kV);
    if (!of_cable)
        return refuse("Class",
                      QString("%1 has none for a cable of %2")
                          .arg(q(design.duty.standard), class_->currentText())
                          .toStdString(),
                      "Choose a lower class or another accessory");
    design.duty.class_kV = of_cable->class_kV;
    job.title = design.title + ", " + cable.title;
    auto prepared = prepare_design(job, design.id, library);
    if (!prepared) return tl::unexpected(prepared.error());
    return Chosen{std::move(job), std::move(*prepared)};
}

void StartPage::refresh() {
    if (!says_) return; // while the choices are made
    auto job = chosen();
    begin_->setEnabled(job.has_value());
    picture_->prepared.reset();
    if (job) {
        const auto& prepared = job->prepared;
        says_->setText(
            QString("Duty: %1, class %2 kV, U0 %3 kV. Everything can be changed afterwards; sizes come "
                    "from tables written from memory until you measure.")
                .arg(q(prepared.standard_title))
                .arg(prepared.design.duty.class_kV)
                .arg(prepared.design.duty.u0(), 0, 'f', 1));
        picture_->prepared = std::move(job->prepared);
    } else {
        says_->setText(q(job.error().message()));
    }
    picture_->update();
}

void StartPage::paintEvent(QPaintEvent*) {
    QPainter(this).fillRect(rect(), session_.theme().panel);
}

} // namespace ng::app
