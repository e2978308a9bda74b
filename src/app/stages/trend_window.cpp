#include "app/stages/trend_window.h"
#include "app/model/text.h"
#include "app/model/window_size.h"
#include "draw/chart_picture.h"
#include "io/file.h"
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace ng::app {

class TrendWindow::Picture : public QWidget {
  public:
    explicit Picture(TrendWindow& window) : QWidget(&window), window_(window) {
        setMinimumHeight(240);
        setAccessibleName("Control chart");
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(rect(), window_.session_.theme().paper);
        const auto at = static_cast<std::size_t>(std::max(0, window_.group_->currentIndex()));
        if (at < window_.trends_.groups.size())
            draw::paint_chart(painter, rect(), window_.trends_.groups[at].chart, "mm",
                              window_.session_.theme());
    }

  private:
    TrendWindow& window_;
};

TrendWindow::TrendWindow(Session& session, Recorder& recorder, QWidget* parent)
    : QWidget(parent, Qt::Window), session_(session) {
    setObjectName("trendWindow");
    setWindowTitle("Find and trends");
    open_within_screen(*this, {1000, 720});
    setStyleSheet(QString("#trendWindow { background: %1; }").arg(session.theme().panel.name()));
    auto* column = new QVBoxLayout(this);
    const auto line = [&] {
        auto* row = new QHBoxLayout;
        column->addLayout(row);
        return row;
    };
    auto* first = line();
    folder_ = new QLineEdit;
    folder_->setAccessibleName("Folder of records");
    auto* choose = new QPushButton("Folder…");
    first->addWidget(folder_, 1);
    first->addWidget(choose);
    auto* second = line();
    words_ = new QLineEdit;
    words_->setPlaceholderText("words that all must occur: batch, initials, instrument, mark, place");
    words_->setAccessibleName("Words to find");
    reworked_ = new QCheckBox("not accepted at first");
    due_ = new QCheckBox("out of calibration");
    auto* find_button = new QPushButton("Find");
    second->addWidget(words_, 1);
    second->addWidget(reworked_);
    second->addWidget(due_);
    second->addWidget(find_button);
    table_ = new QTableWidget(0, 5);
    table_->setHorizontalHeaderLabels({"accessory", "row", "when", "who", "what"});
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setAccessibleName("Rows found");
    column->addWidget(table_, 1);
    auto* third = line();
    mark_ = new QComboBox;
    mark_->addItems({"screen edge", "insulation end", "jacket cut", "metallic screen cut"});
    mark_->setEditable(true);
    mark_->setAccessibleName("Mark");
    by_ = new QComboBox;
    by_->addItems({"all", "jointer", "tool", "month", "family"});
    by_->setAccessibleName("Charted by");
    group_ = new QComboBox;
    group_->setAccessibleName("Chart of");
    group_->setMinimumWidth(160);
    auto* save = new QPushButton("CSV…");
    third->addWidget(new QLabel("How far off"));
    third->addWidget(mark_);
    third->addWidget(new QLabel("by"));
    third->addWidget(by_);
    third->addWidget(group_);
    third->addStretch();
    third->addWidget(save);
    picture_ = new Picture(*this);
    column->addWidget(picture_, 1);
    summary_ = new QLabel;
    summary_->setWordWrap(true);
    column->addWidget(summary_);
    connect(choose, &QPushButton::clicked, this, [this] {
        const auto folder = QFileDialog::getExistingDirectory(this, "Folder of jobs", folder_->text());
        if (!folder.isEmpty()) set_folder(folder);
    });
    connect(find_button, &QPushButton::clicked, this, &TrendWindow::find);
    connect(words_, &QLineEdit::returnPressed, this, &TrendWindow::find);
    connect(reworked_, &QCheckBox::toggled, this, &TrendWindow::find);
    connect(due_, &QCheckBox::toggled, this, &TrendWindow::find);
    connect(mark_, &QComboBox::currentTextChanged, this, &TrendWindow::chart);
    connect(by_, &QComboBox::currentTextChanged, this, &TrendWindow::chart);
    connect(group_, &QComboBox::currentIndexChanged, picture_, qOverload<>(&QWidget::update));
    connect(save, &QPushButton::clicked, this, [this] {
        const auto path = QFileDialog::getSaveFileName(this, "Trends", "trends.csv", "CSV (*.csv)");
        if (!path.isEmpty())
            if (auto ok = write_output(path.toStdString(), trends_csv(trends_)); !ok)
                session_.tell(ok.error());
    });
    if (recorder.log()) set_folder(q(recorder.log()->path().parent_path().string()));
}

void TrendWindow::set_folder(const QString& folder) {
    folder_->setText(folder);
    find();
    chart();
}

void TrendWindow::find() {
    SearchQuery query;
    query.words = words_->text().toStdString();
    query.reworked = reworked_->isChecked();
    query.out_of_calibration = due_->isChecked();
    const auto found = search_logs(folder_->text().toStdString(), query);
    table_->setRowCount(0);
    if (!found) {
        summary_->setText(q(found.error().message()));
        return;
    }
    constexpr int most_shown = 2000;
    for (const auto& f : found->found) {
        const int row = table_->rowCount();
        if (row == most_shown) break;
        table_->insertRow(row);
        const QStringList cells{q(f.accessory_title), QString::number(f.row),
                                q(f.at).left(16).replace('T', ' '), q(f.who), q(f.words)};
        for (int c = 0; c < cells.size(); ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            item->setToolTip(QString("%1, row %2").arg(q(f.file)).arg(f.row));
            table_->setItem(row, c, item);
        }
    }
    table_->resizeColumnsToContents();
    QStringList lines{QString("%1 rows in %2 records.").arg(found->found.size()).arg(found->logs)};
    for (const auto& u : found->unread) lines << q(u);
    summary_->setText(lines.join("\n"));
}

void TrendWindow::chart() {
    const auto by = trend_by(by_->currentText().toStdString());
    auto trends = trends_of(folder_->text().toStdString(), mark_->currentText().toStdString(),
                            by.value_or(TrendBy::all));
    trends_ = trends ? std::move(*trends) : Trends{};
    group_->clear();
    for (const auto& t : trends_.groups)
        group_->addItem(QString("%1: %2 readings, %3 % done again")
                            .arg(q(t.group))
                            .arg(t.chart.values.size())
                            .arg(100 * t.rework_rate(), 0, 'f', 0));
    picture_->update();
}

} // namespace ng::app
