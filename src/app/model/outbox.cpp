#include "app/model/outbox.h"
#include <utility>

namespace ng::app {

void Outbox::hand_over(std::function<void()> what) {
    {
        const std::lock_guard lock(mutex_);
        waiting_.push_back(std::move(what));
    }
    QMetaObject::invokeMethod(this, "take_one",
                              Qt::QueuedConnection); // by its name: nothing of ours is carried
}

void Outbox::take_one() {
    std::function<void()> what;
    {
        const std::lock_guard lock(mutex_);
        what = std::move(waiting_.front());
        waiting_.pop_front();
    }
    what();
}

} // namespace ng::app
