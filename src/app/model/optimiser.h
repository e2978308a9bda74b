// The search for the best shape on a thread of its own.
#pragma once
#include "shape/optimise.h"
#include <QObject>
#include <atomic>
#include <memory>
#include <thread>

namespace ng::app {

class Optimiser : public QObject {
    Q_OBJECT
  public:
    explicit Optimiser(QObject* parent = nullptr) : QObject(parent) {}
    ~Optimiser() override { stop(); }
    void start(const OptimiseRequest& request, const Library& library);
    void cancel() { cancel_ = true; }
    bool is_running() const { return running_; }

  signals:
    void stepped(ng::OptimiseStep step, int done);
    void finished(std::shared_ptr<const ng::OptimiseResult> result);
    void failed(QString message);

  private:
    void stop();
    std::thread thread_;
    std::atomic<bool> cancel_ = false, running_ = false;
};

} // namespace ng::app
