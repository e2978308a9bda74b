#include "app/model/worker.h"

namespace ng::app {

void Worker::stop() {
    cancel_ = true;
    if (thread_) thread_->wait();
}

void Worker::start(std::function<void(const CancelFlag&)> work) {
    stop();
    cancel_ = false;
    running_ = true;
    thread_.reset(QThread::create([this, work = std::move(work)] {
        try {
            work(cancel_);
        } catch (const std::exception& error) {
            emit failed(QString("The computation failed: %1. Undo the last edit.").arg(error.what()));
        }
        running_ = false;
    }));
    thread_->start();
}

} // namespace ng::app
