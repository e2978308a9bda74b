#include "app/model/optimiser.h"

namespace ng::app {

void Optimiser::start(const OptimiseRequest& request, const Library& library) {
    qRegisterMetaType<ng::OptimiseStep>("ng::OptimiseStep");
    qRegisterMetaType<std::shared_ptr<const ng::OptimiseResult>>("std::shared_ptr<const ng::OptimiseResult>");
    worker_.start([this, request, library](const CancelFlag& cancel) {
        auto result = optimise(
            request, library, [this](const OptimiseStep& step, int done) { emit stepped(step, done); },
            &cancel);
        if (result)
            emit finished(std::make_shared<const OptimiseResult>(std::move(*result)));
        else
            emit failed(QString::fromStdString(result.error().message()));
    });
}

} // namespace ng::app
