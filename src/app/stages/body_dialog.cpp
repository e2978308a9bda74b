#include "app/stages/body_dialog.h"
#include "document/drawing_io.h"
#include "draw/section_picture.h"
#include <QComboBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace ng::app {
namespace {

const char* hatch_of(BodyRole role) {
    switch (role) {
    case BodyRole::earthed_deflector:
    case BodyRole::inner_electrode:
        return "semiconductor";
    case BodyRole::grading_layer:
        return "grading";
    default:
        return "rubber";
    }
}

/// The profiles at their true shape, their axis below; what is left out is only an outline.
class BodyPicture : public QWidget {
  public:
    BodyPicture(const BodyDrawing& body, const std::vector<Outline>& rest, const draw::Theme& theme)
        : body_(body), rest_(rest), theme_(theme) {
        setMinimumSize(420, 220);
        setAccessibleName("Profiles as understood");
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(rect(), theme_.paper);
        Section section;
        std::vector<Part> parts;
        double r1 = 1, z0 = 1e9, z1 = -1e9;
        const auto add = [&](const Outline& outline, const char* hatch) {
            const auto place = place::body.number(static_cast<int>(parts.size()) + 1);
            section.regions.push_back({name_of(place), "", outline});
            parts.push_back({place, "", hatch});
            for (const auto& p : polygon_of(outline, 0.2)) {
                r1 = std::max(r1, p.r);
                z0 = std::min(z0, p.z);
                z1 = std::max(z1, p.z);
            }
        };
        for (const auto role : body_roles())
            for (const auto& part : body_.parts)
                if (part.role == role) add(part.outline, hatch_of(role));
        for (const auto& outline : rest_) add(outline, "air");
        if (section.regions.empty()) return;
        draw::View view;
        const double scale = 0.94 * std::min(width() / (z1 - z0), (height() - 8) / r1);
        view.z_scale_px = scale;
        view.r_scale_px = -scale;
        view.x_of_datum_px = width() / 2.0 - scale * (z0 + z1) / 2;
        view.axis_y_px = height() - 6;
        draw::paint_section(painter, section, parts, view, theme_);
        painter.setPen(QPen(theme_.faint, 1, Qt::DashDotLine));
        painter.drawLine(QPointF(0, view.axis_y_px), QPointF(width(), view.axis_y_px));
    }

  private:
    const BodyDrawing& body_;
    const std::vector<Outline>& rest_;
    const draw::Theme& theme_;
};

constexpr const char* leave_out = "leave out";

} // namespace

BodyDialog::BodyDialog(const QString& file, const draw::Theme& theme, QWidget* parent)
    : QDialog(parent), file_(file) {
    setWindowTitle("Body from " + QFileInfo(file).fileName());
    setObjectName("bodyDialog");
    auto* column = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    title_ = new QLineEdit(QFileInfo(file).completeBaseName());
    title_->setAccessibleName("Name of the body");
    form->addRow("Name", title_);
    unit_ = new QComboBox;
    unit_->setAccessibleName("Unit of the drawing");
    unit_->addItems({"as the drawing says", "mm", "inch"});
    form->addRow("Unit", unit_);
    axis_ = new QComboBox;
    axis_->setAccessibleName("Cable axis in the drawing");
    axis_->addItems({"the drawing's x", "the drawing's y"});
    form->addRow("Cable axis", axis_);
    column->addLayout(form);
    auto* row = new QHBoxLayout;
    layers_ = new QTableWidget(0, 3);
    layers_->setAccessibleName("Layers and what is drawn on them");
    layers_->setHorizontalHeaderLabels({"layer", "profiles", "what it is"});
    layers_->verticalHeader()->hide();
    layers_->horizontalHeader()->setStretchLastSection(true);
    layers_->setMinimumWidth(330);
    row->addWidget(layers_);
    picture_ = new BodyPicture(body_, rest_, theme);
    row->addWidget(picture_, 1);
    column->addLayout(row, 1);
    said_ = new QLabel;
    said_->setWordWrap(true);
    column->addWidget(said_);
    problem_ = new QLabel;
    problem_->setWordWrap(true);
    problem_->setProperty("caution", true);
    problem_->hide();
    column->addWidget(problem_);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    take_ = new QPushButton("Take the body");
    take_->setDefault(true);
    connect(take_, &QPushButton::clicked, this, &BodyDialog::take);
    buttons->addWidget(take_);
    auto* leave = new QPushButton("Leave");
    leave->setAutoDefault(false);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    buttons->addWidget(leave);
    column->addLayout(buttons);
    for (auto* box : {unit_, axis_}) connect(box, &QComboBox::activated, this, &BodyDialog::read);
    read();
    resize(860, 470);
}

DxfReadOptions BodyDialog::options() const {
    DxfReadOptions out;
    if (unit_->currentIndex() > 0) out.mm_per_unit = unit_->currentIndex() == 1 ? 1 : 25.4;
    if (axis_->currentIndex() == 1) out.axis = DxfReadOptions::Axis::y;
    return out;
}

std::map<std::string, BodyRole> BodyDialog::roles() const {
    std::map<std::string, BodyRole> out;
    for (int row = 0; row < layers_->rowCount(); ++row) {
        const auto* box = static_cast<QComboBox*>(layers_->cellWidget(row, 2));
        if (const auto role = body_role(box->currentText().toStdString()))
            out[layers_->item(row, 0)->text().toStdString()] = *role;
    }
    return out;
}

void BodyDialog::read() {
    for (const auto& [layer, role] : roles()) chosen_[layer] = role; // kept while unit and axis are tried
    auto read = read_dxf_profiles(file_.toStdString(), options());
    is_read_ = read.has_value();
    if (!read) {
        problem_->setText(QString::fromStdString(read.error().message()));
        problem_->show();
        said_->clear();
        body_.parts.clear();
        rest_.clear();
        layers_->setRowCount(0);
        take_->setEnabled(false);
        picture_->update();
        return;
    }
    profiles_ = std::move(*read);
    layers_->setRowCount(0);
    for (const auto& layer : profiles_.layers) {
        const auto count = std::count_if(profiles_.profiles.begin(), profiles_.profiles.end(),
                                         [&](const auto& p) { return p.layer == layer; });
        const int at = layers_->rowCount();
        layers_->insertRow(at);
        const auto cell = [&](int column, const QString& text) {
            auto* item = new QTableWidgetItem(text);
            item->setFlags(Qt::ItemIsEnabled);
            layers_->setItem(at, column, item);
        };
        cell(0, QString::fromStdString(layer));
        cell(1, QString::number(count));
        auto* role = new QComboBox;
        role->setAccessibleName("What is drawn on layer " + QString::fromStdString(layer));
        role->addItem(leave_out);
        for (const auto one : body_roles()) role->addItem(role_words(one));
        if (const auto it = chosen_.find(layer); it != chosen_.end())
            role->setCurrentText(role_words(it->second));
        connect(role, &QComboBox::activated, this, &BodyDialog::understand);
        layers_->setCellWidget(at, 2, role);
    }
    said_->setText(QString("Unit %1 mm, %2.")
                       .arg(profiles_.mm_per_unit)
                       .arg(profiles_.unit_was_read ? "as the drawing says" : "as chosen here"));
    understand();
}

void BodyDialog::understand() {
    chosen_ = roles();
    body_.parts = parts_of(profiles_, chosen_);
    rest_.clear();
    for (const auto& profile : profiles_.profiles)
        if (!chosen_.contains(profile.layer)) rest_.push_back(profile.outline);
    body_.title = title_->text().trimmed().toStdString();
    const auto ok = is_read_ ? check_drawing(body_) : Result<void>{};
    problem_->setVisible(!ok);
    if (!ok) problem_->setText(QString::fromStdString(ok.error().message()));
    take_->setEnabled(is_read_ && ok.has_value());
    picture_->update();
}

void BodyDialog::take() {
    body_.title = title_->text().trimmed().toStdString();
    if (body_.title.empty()) {
        problem_->setText("Name: it is empty. Give the body a name.");
        problem_->show();
        title_->setFocus();
        return;
    }
    body_.file = QFileInfo(file_).fileName().toStdString();
    body_.id = id_from_title(body_.title);
    accept();
}

} // namespace ng::app
