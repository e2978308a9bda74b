// The search for the best shape on a thread of its own.
#pragma once
#include "app/model/worker.h"
#include "shape/optimise.h"
#include <memory>

namespace ng::app {

class Optimiser : public QObject {
    Q_OBJECT
  public:
    explicit Optimiser(QObject* parent = nullptr) : QObject(parent) {
        connect(&worker_, &Worker::failed, this, &Optimiser::failed);
    }
    /// `prepare`: the design as it is judged, with faults or without.
    void start(const OptimiseRequest& request, const Library& library, const Preparer& prepare);
    void cancel() { worker_.cancel(); }
    bool is_running() const { return worker_.is_running(); }

  signals:
    void stepped(ng::OptimiseStep step, int done);
    void finished(std::shared_ptr<const ng::OptimiseResult> result);
    void failed(QString message);

  private:
    Worker worker_;
};

} // namespace ng::app
