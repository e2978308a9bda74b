#pragma once
#include "app/stages/page.h"
#include <QCheckBox>
#include <QPushButton>
#include <QTableWidget>

namespace ng::app {

/// Stage Duty: standard, class, U0, frequency and site; the levels and design rules with where each comes
/// from, each to be confirmed or replaced against one's own copy.
class DutyPage : public Page {
    Q_OBJECT
  public:
    DutyPage(Session& session, QWidget* parent);

    /// Puts a pack into the job, or says why not.
    bool import_pack(const QString& path);
    bool export_pack(const QString& path);
    QTableWidget* level_table() { return levels_; }

  private:
    void add_standard();
    void add_pack_buttons();
    void add_site();
    void connect_class();
    void connect_numbers();
    void refresh();
    void refresh_proposal(const StandardsPack* pack);
    void refresh_levels(const StandardsPack& pack);
    void refresh_rules();
    void edit(const QString& what, const std::function<void(Duty&)>& change);
    void open_level(int row);
    void open_rule(int row);
    QTableWidget* add_table(const QString& heading, const QStringList& columns, const QString& name);

    std::vector<StandardsPack> packs_;        ///< of the job, refreshed with it
    std::optional<double> class_of_cable_kV_; ///< of this pack
    QPushButton* by_cable_;
    QComboBox *standard_, *class_, *pollution_;
    QuantityEdit *u0_, *frequency_, *altitude_, *ambient_, *film_, *phases_, *earth_;
    QCheckBox* outdoor_;
    QTableWidget *levels_, *rules_;
    QLabel* scope_;
};

} // namespace ng::app
