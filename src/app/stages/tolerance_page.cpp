#include "app/stages/tolerance_page.h"

namespace ng::app {

template <class Panel> Panel* TolerancePage::add_panel(const QString& heading) {
    add_group(heading);
    auto* panel = new Panel(session_, this);
    column_->addWidget(panel);
    return panel;
}

TolerancePage::TolerancePage(Session& session, QWidget* parent) : Page(session, "Tolerances", parent) {
    add_caution("What is assumed of hands and makers is common practice: change it where you know "
                "better. No computation replaces a type test.");
    builds_ = add_panel<BuildsPanel>("A thousand builds");
    windows_ = add_panel<WindowsPanel>("How far each mark may lie off");
    tornado_ = add_panel<TornadoPanel>("What moves it most");
    effects_ = add_panel<EffectsPanel>("What its spread comes from");
    worst_ = add_panel<WorstPanel>("The worst of its tolerances");
    range_ = add_panel<RangePanel>("The kit over its cables");
    duties_ = add_panel<DutiesPanel>("The design at other classes");
    editor_ = add_panel<ToleranceEditor>("What varies");
    column_->addStretch();
}

} // namespace ng::app
