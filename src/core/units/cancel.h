// How long work is told to stop.
#pragma once
#include <atomic>

namespace ng {

/// Raised from any thread; work that looks at it stops at its next step.
using CancelFlag = std::atomic<bool>;

} // namespace ng
