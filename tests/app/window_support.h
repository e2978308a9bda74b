// A window with the demo job, as a user would have it, and patient waiting.
#pragma once
#include "app/application.h"
#include "app/main_window.h"
#include "app/stages/accessory_page.h"
#include "app/stages/fit_page.h"
#include "app/stages/shape_page.h"
#include "app/stages/verdict_page.h"
#include "app/strips/build_strip.h"
#include "app/strips/needle_bar.h"
#include "app/strips/stress_strip.h"
#include "support.h"
#include <QStandardPaths>

namespace ng::test {

struct Window {
    std::unique_ptr<app::MainWindow> window;
    Window() : window(std::make_unique<app::MainWindow>(*load_library(NEEDLEGAUGE_DATA_DIR))) {
        window->set_ask_before_closing(false);
        window->resize(1280, 800);
        window->open_demo();
        window->show();
        if (!QTest::qWaitForWindowExposed(window.get())) qWarning("the window was not exposed");
        window->activateWindow();
        QTest::qWait(20);
    }
    app::MainWindow* operator->() const { return window.get(); }
    app::Session& session() const { return window->session(); }
    const Design& design() const { return session().document.design(); }
    bool refined() const { return session().is_current() && !session().solved()->coarse; }
    bool wait_refined() const {
        return QTest::qWaitFor([this] { return refined(); }, patient(30000));
    }
};

} // namespace ng::test
