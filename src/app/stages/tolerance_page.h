// Stage Tolerances: thousands of builds of the design, each mark's window, what moves it, its kit's range, in
// the background.
#pragma once
#include "app/stages/builds_panel.h"
#include "app/stages/duties_panel.h"
#include "app/stages/effects_panel.h"
#include "app/stages/page.h"
#include "app/stages/range_panel.h"
#include "app/stages/tolerance_editor.h"
#include "app/stages/tornado_panel.h"
#include "app/stages/windows_panel.h"
#include "app/stages/worst_panel.h"

namespace ng::app {

class TolerancePage : public Page {
    Q_OBJECT
  public:
    TolerancePage(Session& session, QWidget* parent);
    BuildsPanel& builds() { return *builds_; }
    WindowsPanel& windows() { return *windows_; }
    RangePanel& range() { return *range_; }
    DutiesPanel& duties() { return *duties_; }
    TornadoPanel& tornado() { return *tornado_; }
    EffectsPanel& effects() { return *effects_; }
    WorstPanel& worst() { return *worst_; }
    ToleranceEditor& editor() { return *editor_; }

  private:
    /// Below a heading of its own.
    template <class Panel> Panel* add_panel(const QString& heading);
    BuildsPanel* builds_;
    WindowsPanel* windows_;
    RangePanel* range_;
    DutiesPanel* duties_;
    TornadoPanel* tornado_;
    EffectsPanel* effects_;
    WorstPanel* worst_;
    ToleranceEditor* editor_;
};

} // namespace ng::app
