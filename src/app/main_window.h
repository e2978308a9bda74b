// The window: header, stages at the left, strips on one axis, panel at the right, needle below.
#pragma once
#include "app/model/recorder.h"
#include "app/model/trainee.h"
#include <QMainWindow>

class QLabel;
class QPushButton;
class QSplitter;
class QStackedWidget;

namespace ng::app {

class AccessoryPage;
class Banner;
class BuildStrip;
class Loupe;
class NeedleBar;
class StageList;
class StartPage;
class StressStrip;
class VerdictPage;
class CutbacksPage;
class WorkPage;
class RecordPage;
class FaultsPage;
class TolerancePage;
class TrainerPage;
class ReportPage;
class TapeStrip;
class VoidStripView;
class CompareWindow;
class ContextMenus;
class HelpWindow;
class DutyPage;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    /// `opens_first`: the job file that is opened next, solved while the window is still built; may be empty.
    explicit MainWindow(Library library, const QString& opens_first = {}, QWidget* parent = nullptr);
    ~MainWindow() override;

    Session& session() { return session_; }
    void open_file(const QString& path);
    void open_demo();
    /// The first page, over everything until something is opened.
    StartPage* show_start();
    StartPage* start_page() { return start_; }
    /// Offers the work of a session that ended without saving.
    void offer_recovery(const QString& path);
    /// After a fault in the program itself: says so and keeps a safety copy.
    void survive(const QString& what);
    static QString demo_path(const Library& library);

    BuildStrip* build_strip() { return build_; }
    StressStrip* stress_strip() { return stress_; }
    VoidStripView* void_strip() { return void_; }
    DutyPage* duty_page() { return duty_page_; }
    CompareWindow* open_comparison();
    /// On what is in hand; on `about` where it is given.
    HelpWindow* open_help(const QString& about = {});
    VerdictPage* verdict_page() { return verdict_; }
    AccessoryPage* accessory_page() { return accessory_; }
    CutbacksPage* cutbacks_page() { return cutbacks_; }
    WorkPage* work_page() { return work_; }
    RecordPage* record_page() { return record_; }
    Recorder& recorder() { return recorder_; }
    TrainerPage* trainer_page() { return trainer_; }
    Trainee& trainee() { return trainee_; }
    ReportPage* report_page() { return report_; }
    FaultsPage* faults_page() { return faults_; }
    TolerancePage* tolerance_page() { return tolerance_; }
    TapeStrip* tape_strip() { return tape_; }
    NeedleBar* needle_bar() { return needle_; }
    Loupe* loupe() { return loupe_; }
    void toggle_loupe();
    void show_stage(int index); ///< of stage::Index
    void next_peak();           ///< needle to it
    void copy_picture();
    void copy_traces();
    void export_what_is_shown();
    ContextMenus* context_menus() { return menus_; }
    QString banner_text() const;
    QString offer_text() const; ///< of the work that is offered; empty: none is
    QPushButton* recover_button() { return recover_; }
    QPushButton* throw_away_button() { return throw_away_; }
    Result<void> export_to(const QString& path);
    /// Enters what is typed in a field; what cannot be used stays there. False: something did.
    bool enter_typed();
    /// Saves under this name; on failure the message says why and nothing is lost.
    bool save_to(const QString& path);
    /// The firm's designs to begin others from.
    static std::filesystem::path templates_folder();
    /// Keeps the shown design there; false: it says why not.
    bool keep_template(const QString& title);
    void set_ask_before_closing(bool ask) { ask_before_closing_ = ask; }
    /// Size, theme, units, splits and stage of the last time; kept when the window closes.
    void restore_manners();

  protected:
    void closeEvent(QCloseEvent* event) override;
    void changeEvent(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    void make_menus();
    QWidget* make_offer();
    void show_offer();
    void watch_typing();
    void note_typed();
    QString typed_words() const;
    void look_at_file();
    void show_title();
    void show_input_error();
    void place_banner();
    void restyle();
    void choose_stage(int index);
    void share_strips();
    void next_strip();
    void toggle_whole_end();
    bool save();
    bool save_as();
    bool may_discard();
    QString traces_text() const;
    void print_window();
    void save_section();
    void remember_recent(const QString& path);
    void fill_recent();
    void fill_templates();

    Session session_;
    Recorder recorder_{session_};
    Trainee trainee_{session_};
    Banner* banner_;
    QWidget* offer_;
    QLabel* offer_text_;
    QPushButton *recover_, *throw_away_;
    std::vector<LeftCopy> left_; ///< offered one after the other
    QDateTime looked_at_file_;   ///< the time of the version that was last compared with what is open
    StageList* stages_;
    QStackedWidget* pages_;
    BuildStrip* build_;
    QWidget* field_;
    TrainerPage* trainer_;
    ContextMenus* menus_;
    TapeStrip* tape_;
    CutbacksPage* cutbacks_;
    WorkPage* work_;
    RecordPage* record_;
    ReportPage* report_;
    FaultsPage* faults_;
    TolerancePage* tolerance_;
    StressStrip* stress_;
    VoidStripView* void_;
    QSplitter* strips_;
    DutyPage* duty_page_;
    NeedleBar* needle_;
    Loupe* loupe_;
    VerdictPage* verdict_;
    AccessoryPage* accessory_;
    QMenu *recent_ = nullptr, *templates_ = nullptr;
    bool ask_before_closing_ = true, keeps_manners_ = false, low_ = false;
    QSplitter* middle_ = nullptr;
    StartPage* start_ = nullptr;
    QString shown_error_;
};

} // namespace ng::app
