#include "dialogs/file_dialogs.h"
#include "main_window.h"
#include "shots.h"
#include "theme/style.h"

#include <iostream>
#include <QApplication>
#include <QPalette>

namespace {

constexpr const char* kUsage = R"(nuvat: from instrument readings to reported concentrations

  nuvat [FILE]            opens a batch, or imports a reading
  nuvat --demo [NAME]     starts with a demo batch: patulin, polyphenols, cuvettes, acids, mycotoxins, esters, sulfite,
                          ascorbic-acid
  nuvat --demo [NAME] --shots DIR  renders every main page of it to PNG and exits (no display needed)
  nuvat --demo [NAME] --record HOST:PORT  measures one run more of it with the instrument there
  nuvat --dark | --light  whatever the desktop says
)";

} // namespace

int main(int argc, char** argv) {
    QString file;
    QString shots;
    QString instrument;
    std::string demo;
    std::optional<bool> isDark;
    const std::vector<std::string> arguments(argv + 1, argv + argc);
    for (std::size_t i = 0; i < arguments.size(); ++i) {
        const std::string& argument = arguments[i];
        if (argument == "--demo") {
            const bool isNamed = i + 1 < arguments.size() && !arguments[i + 1].starts_with("--");
            demo = isNamed ? arguments[++i] : "patulin";
        } else if (argument == "--shots" && i + 1 < arguments.size()) {
            shots = QString::fromStdString(arguments[++i]);
        } else if (argument == "--record" && i + 1 < arguments.size()) {
            instrument = QString::fromStdString(arguments[++i]);
        } else if (argument == "--dark" || argument == "--light") {
            isDark = argument == "--dark";
        } else if (argument == "--help" || argument == "-h") {
            std::cout << kUsage;
            return 0;
        } else if (argument.starts_with("--")) {
            std::cerr << "nuvat: there is no option " << argument << ".\n\n" << kUsage;
            return 2;
        } else {
            file = QString::fromStdString(argument);
        }
    }
    if (!shots.isEmpty()) {
        qputenv("QT_QPA_PLATFORM", "offscreen");
    }
    QApplication application(argc, argv);
    QCoreApplication::setOrganizationName(QStringLiteral("nuvat"));
    QCoreApplication::setApplicationName(QStringLiteral("nuvat"));
    // Follows the desktop: a dark desktop gives a dark window colour.
    nuvat::setDark(isDark.value_or(application.palette().color(QPalette::Window).lightnessF() < 0.5F));
    nuvat::applyStyle(application);
    if (!shots.isEmpty()) {
        const auto done = nuvat::takeShots(shots.toStdString(), demo.empty() ? "patulin" : demo);
        if (!done) {
            std::cerr << "nuvat: " << done.error().text() << "\n";
            return 1;
        }
        return 0;
    }
    nuvat::Workspace workspace;
    nuvat::FileDialogs dialogs;
    nuvat::MainWindow window(workspace, dialogs);
    window.show();
    if (!demo.empty()) {
        window.startDemo(demo);
        if (!instrument.isEmpty()) {
            window.record(instrument);
        }
    }
    if (!file.isEmpty()) {
        window.openFile(file);
    }
    return QApplication::exec();
}
