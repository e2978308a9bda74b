// One row for each check and each test, as stage Verdict lists them.
#pragma once
#include "app/stages/card_row.h"

namespace ng::app {

/// The value of a check, in as many figures as its error supports.
QString figure(double value, const Check& check);

/// One check: mark, title, value against limit; opens to why, inputs, provenance, place and cure.
class VerdictRow : public CardRow {
    Q_OBJECT
  public:
    VerdictRow(Session& session, QWidget* parent);
    void show_check(const Check& check, const QString& estimate);
    const Check& check() const { return check_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Check check_;
    QString estimate_;
};

/// One test of the schedule: mark, title, voltage and the worst of its checks; opens to them.
class TestRow : public CardRow {
    Q_OBJECT
  public:
    TestRow(Session& session, QWidget* parent);
    void show_test(const TestResult& test, bool stale);
    const TestResult& test() const { return test_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    TestResult test_;
    bool stale_ = false;
};

} // namespace ng::app
