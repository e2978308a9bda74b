// What other threads hand over, run on the thread of the window in the order it was handed over.
#pragma once
#include <QObject>
#include <deque>
#include <functional>
#include <mutex>

namespace ng::app {

/// Ordered by a lock of its own: what Qt's queue of events orders no thread sanitizer sees. What has not been
/// run when it is destroyed never is.
class Outbox : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    void hand_over(std::function<void()> what); ///< from any thread

  private slots:
    void take_one();

  private:
    std::mutex mutex_;
    std::deque<std::function<void()>> waiting_;
};

} // namespace ng::app
