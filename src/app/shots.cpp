#include "shots.h"

#include "dialogs/file_dialogs.h"
#include "kinds/plate/plate_view.h"
#include "main_window.h"
#include "nuvat/batch/run_commands.h"
#include "panels/curve_page.h"
#include "panels/layout_page.h"
#include "plots/curve_plot.h"
#include "widgets/live_form.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QPushButton>

namespace nuvat {

namespace {

/// Lets queued work, lights of the cards and late layouts come to rest.
void settle(int millis) {
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < millis) {
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    }
}

} // namespace

Result<void> takeShots(const std::filesystem::path& folder, const std::string& which) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    Workspace workspace;
    FileDialogs dialogs;
    MainWindow window(workspace, dialogs);
    window.resize(1280, 800);
    window.show();
    std::string failed;
    const auto shoot = [&](const char* name) {
        settle(1000);
        const auto path = folder / (std::string(name) + ".png");
        if (!window.grab().save(QString::fromStdString(path.string()))) {
            failed = path.string();
        }
    };
    shoot("start");
    window.previewText("plate-450.csv");
    shoot("import");
    auto demo = demoBatch(which, {});
    if (!demo) {
        return tl::unexpected(demo.error());
    }
    workspace.open(std::move(*demo));
    window.showPage(ChainPage::Data);
    const bool isList = workspace.carrier().kind == CarrierKind::RunList;
    workspace.select({isList ? Place{5, 0} : Place{3, 7}});
    shoot("data");
    window.showPage(ChainPage::Layout);
    workspace.selectGroup({Role::Unknown, 7});
    shoot("layout");
    if (nextPlanned(workspace.batch(), workspace.carrierNumber())) {
        workspace.selectGroup({Role::Standard, 3});
        window.findChild<LayoutPage*>()->showPlan(true);
        shoot("plan");
        window.findChild<LayoutPage*>()->showPlan(false);
    }
    window.showPage(ChainPage::Response);
    workspace.selectGroup({Role::Standard, 3});
    shoot("response");
    if (workspace.batch().method.analytes.size() > 4 && workspace.batch().hasTraces()) {
        workspace.showAnalyte(3);
        workspace.select({{14, 0}});
        window.findChild<Segments*>(QStringLiteral("responseMode"))->findChildren<QAbstractButton*>().at(1)->click();
        shoot("review");
    }
    window.showPage(ChainPage::Curve);
    workspace.selectGroup({Role::Unknown, 5});
    shoot("curve");
    window.findChild<QPushButton*>(QStringLiteral("showComparison"))->click();
    workspace.clearSelection();
    shoot("compare");
    window.showPage(ChainPage::Checks);
    workspace.selectCriterion("unknown-cv");
    shoot("checks");
    window.showPage(ChainPage::Results);
    workspace.selectGroup({Role::Unknown, 8});
    shoot("results");
    window.showPage(ChainPage::Report);
    workspace.clearSelection();
    shoot("report");
    if (!failed.empty()) {
        return fail("shots.cannot-write", failed + " cannot be written.", "Choose a folder you may write to.");
    }
    return {};
}

} // namespace nuvat
