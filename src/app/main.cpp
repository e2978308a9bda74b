#include "app/application.h"
#include "app/main_window.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QHashSeed>
#include <cstdio>

int main(int argc, char** argv) {
    QHashSeed::setDeterministicGlobalSeed(); // the same bytes in the same PDF
    ng::app::Application application(argc, argv);
    ng::app::prepare_application(application);
    QCommandLineParser parser;
    parser.setApplicationDescription("Electric field along medium-voltage cable accessories. A design aid: "
                                     "it does not replace a type test.");
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption demo("demo", "Open the demo job.");
    parser.addOption(demo);
    parser.addPositionalArgument("job", "Job file (.ngjob) to open.", "[job]");
    parser.process(application);

    auto library = ng::load_library(ng::data_folder());
    if (!library) {
        std::fprintf(stderr, "%s\n", library.error().message().c_str());
        return 2;
    }
    const auto files = parser.positionalArguments();
    const auto first = !files.isEmpty()     ? files.first()
                       : parser.isSet(demo) ? ng::app::MainWindow::demo_path(*library)
                                            : QString();
    ng::app::MainWindow window(std::move(*library), first);
    QObject::connect(&application, &ng::app::Application::failed, &window, &ng::app::MainWindow::survive);
    if (!files.isEmpty())
        window.open_file(files.first());
    else {
        if (parser.isSet(demo))
            window.open_demo();
        else
            window.show_start();
        window.offer_recovery({});
    }
    window.restore_manners();
    window.show();
    return QApplication::exec();
}
