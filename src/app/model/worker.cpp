#include "app/model/worker.h"

namespace ng::app {

void Worker::stop() {
    cancel_ = true;
    if (thread_.joinable()) thread_.join();
}

void Worker::pause() {
    cancel_.pause();
    paused_.start();
}

void Worker::go_on() {
    if (is_paused()) away_ms_ += paused_.elapsed();
    cancel_.go_on();
}

void Worker::start(std::function<void(const CancelFlag&)> work) {
    stop();
    cancel_ = false;
    running_ = true;
    thread_ = std::thread([this, work = std::move(work)] {
        try {
            work(cancel_);
        } catch (const std::exception& error) {
            hand_over([this, why = std::string(error.what())] {
                emit failed(QString("The computation failed: %1. Undo the last edit.")
                                .arg(QString::fromStdString(why)));
            });
        }
        running_ = false;
    });
}

} // namespace ng::app
