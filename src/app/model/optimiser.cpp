#include "app/model/optimiser.h"

namespace ng::app {

void Optimiser::start(const OptimiseRequest& request, const Library& library, const Preparer& prepare) {
    worker_.start([this, request, library, prepare](const CancelFlag& cancel) {
        auto result = optimise(
            request, library, prepare,
            [this](const OptimiseStep& step, int done) {
                worker_.hand_over([this, step, done] { emit stepped(step, done); });
            },
            &cancel);
        worker_.hand_over([this, result = std::move(result)]() mutable {
            if (result)
                emit finished(std::make_shared<const OptimiseResult>(std::move(*result)));
            else
                emit failed(QString::fromStdString(result.error().message()));
        });
    });
}

} // namespace ng::app
