// How long work is told to stop, or to wait.
#pragma once
#include <atomic>

namespace ng {

/// Raised from any thread: work that looks at it stops at its next step. Paused: work that looks at it waits
/// there, until it goes on or is to stop.
class CancelFlag {
  public:
    CancelFlag(bool raised = false) : state_(raised ? stopped : runs) {}
    CancelFlag(const CancelFlag&) = delete;
    CancelFlag& operator=(const CancelFlag&) = delete;

    /// Whether the work is to stop.
    bool load(std::memory_order order = std::memory_order_seq_cst) const {
        auto state = state_.load(order);
        while (state == paused) {
            state_.wait(paused);
            state = state_.load();
        }
        return state == stopped;
    }
    operator bool() const { return load(); }
    /// Also from a signal's handler.
    void store(bool raise) {
        state_.store(raise ? stopped : runs);
        state_.notify_all();
    }
    CancelFlag& operator=(bool raise) {
        store(raise);
        return *this;
    }

    /// Nothing, where it is to stop already.
    void pause() { change(runs, paused); }
    void go_on() {
        change(paused, runs);
        state_.notify_all();
    }
    bool is_paused() const { return state_.load() == paused; }

  private:
    enum State { runs, paused, stopped };
    void change(int from, int to) { state_.compare_exchange_strong(from, to); }
    std::atomic<int> state_;
};

} // namespace ng
