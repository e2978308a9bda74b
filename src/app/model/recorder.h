// The record of the job that is open: its log beside the job's file, the accessory that the shown design is
// built as, and what was built, solved again in the background after each entry.
#pragma once
#include "app/model/instrument_port.h"
#include "app/model/session.h"
#include "record/as_built.h"
#include "record/log.h"
#include <QTemporaryDir>
#include <QTimer>

namespace ng::app {

class Recorder : public QObject {
    Q_OBJECT
  public:
    explicit Recorder(Session& session, QObject* parent = nullptr);

    /// None: nothing is recorded yet, or `trouble` says why not.
    const Log* log() const { return log_ ? &*log_ : nullptr; }
    /// Why there is none, or why it is not written to; empty: all is well.
    QString trouble() const { return trouble_; }
    /// Of the log as it was opened, and of rows that others wrote; made in the background.
    const Verification& verification() const { return verification_; }
    bool is_verifying() const { return verifying_; }
    /// One line: rows and last hash, or what does not verify.
    QString words() const;

    Who who() const { return who_; }
    void set_who(const Who& who);

    /// Of the shown design; none: its record is not begun.
    std::shared_ptr<const AccessoryRecord> record() const { return record_; }
    /// Plan and sheet of the design as it was when its record began.
    std::shared_ptr<const CutPlan> plan() const { return plan_; }
    const std::optional<WorkSheet>& sheet() const { return sheet_; }

    /// Freezes the shown design and begins its record; the log is made where there is none.
    bool begin(const nlohmann::json& details);
    /// Writes a row; false: `session` was told why, nothing was written.
    bool write(EntryDraft draft);
    bool write_mark(const PlaceId& place, double from_datum_mm, const std::string& step,
                    const InstrumentReading* from = nullptr);
    /// A row in the place of a reading, which stays; `from`: what the instrument sent. Without a reason it is
    /// refused.
    bool correct(std::int64_t number, double value, const std::string& why,
                 const InstrumentReading* from = nullptr);
    bool write_hold(const SheetStep& step, const QString& found, const char* decision, const QString& reason);
    /// Copies a file beside the log, by its hash.
    bool write_file(const QString& path, const QString& about);
    bool sign(const std::string& closes, const QString& reason);
    /// Whether the log still holds the row of a hash that was kept elsewhere; says so.
    QString verify_against(const QString& kept);

    /// Of what is read at the steps; a test set has its own (TestWindow).
    InstrumentPort& port() { return port_; }
    /// The row that describes the instrument at the port; written when it is first used.
    std::optional<std::int64_t> instrument_row();

    std::shared_ptr<const BuiltVerdict> verdict() const { return verdict_; }
    QString verdict_words() const { return verdict_words_; }
    bool is_judging() const { return judging_; }
    /// Builds what was made anew, so many times, within the tolerances of what nobody measured; in the
    /// background, said by `varied`.
    void vary_unmeasured(std::uint64_t samples);
    void stop_varying();
    bool is_varying() const { return varying_; }
    QString unmeasured_words() const { return unmeasured_words_; } ///< empty: not asked for what is built now

  signals:
    void varied();  ///< more of the builds asked for, or the end of them
    void changed(); ///< rows, accessory or trouble
    void judged();

  private:
    void copy_record();
    void look();       ///< for the log of the job that is open now
    void look_again(); ///< for rows of others
    void open();
    void verify();
    void fold();
    void plan_built_to();
    void judge();
    bool written(const Result<Entry>& row);
    std::filesystem::path path() const;

    Session& session_;
    std::optional<Log> log_;
    std::filesystem::path looked_at_;
    std::filesystem::file_time_type looked_at_time_ = {};
    QString copied_from_;
    std::unique_ptr<QTemporaryDir> copy_; ///< where the record of a job that is open as a copy lies
    std::tuple<std::filesystem::path, std::int64_t, QString, std::string> folded_;
    QString trouble_;
    Verification verification_;
    Who who_;
    std::shared_ptr<const AccessoryRecord> record_;
    std::shared_ptr<const CutPlan> plan_;
    std::optional<WorkSheet> sheet_;
    std::string planned_; ///< hash of the frozen design that plan and sheet are of
    std::tuple<std::filesystem::path, std::int64_t, std::int64_t> judged_; ///< log, accessory, last row
    std::shared_ptr<const BuiltVerdict> verdict_;
    QString verdict_words_;
    bool judging_ = false, verifying_ = false, varying_ = false;
    QString unmeasured_words_;
    int run_ = 0, varying_run_ = 0;
    Worker worker_, verifier_, builds_;
    InstrumentPort port_;
    QTimer timer_;
};

} // namespace ng::app
