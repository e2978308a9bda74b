#include "app/model/optimiser.h"

namespace ng::app {

void Optimiser::stop() {
    cancel_ = true;
    if (thread_.joinable()) thread_.join();
}

void Optimiser::start(const OptimiseRequest& request, const Library& library) {
    qRegisterMetaType<ng::OptimiseStep>("ng::OptimiseStep");
    qRegisterMetaType<std::shared_ptr<const ng::OptimiseResult>>("std::shared_ptr<const ng::OptimiseResult>");
    stop();
    cancel_ = false;
    running_ = true;
    thread_ = std::thread([this, request, library] {
        try {
            auto result = optimise(
                request, library, [this](const OptimiseStep& step, int done) { emit stepped(step, done); },
                &cancel_);
            running_ = false;
            if (result)
                emit finished(std::make_shared<const OptimiseResult>(std::move(*result)));
            else
                emit failed(QString::fromStdString(result.error().message()));
        } catch (const std::exception& error) {
            running_ = false;
            emit failed(QString("The search failed: %1. Change the bounds.").arg(error.what()));
        }
    });
}

} // namespace ng::app
