// Every action of the window: its words, its keys and where it applies.
#include "actions/actions.h"
#include "dialogs/file_dialogs.h"
#include "main_window.h"
#include "panels/page.h"
#include "panels/working_panel.h"
#include "plots/curve_plot.h"
#include "widgets/data_table.h"
#include "widgets/frame_widgets.h"

#include <algorithm>
#include <array>
#include <QApplication>
#include <QClipboard>
#include <QMenu>
#include <QStackedWidget>
#include <QToolButton>

namespace nuvat {

void MainWindow::makeActions() {
    m_actions = new Actions(this);
    const auto open = [this] { return m_workspace.isOpen(); };
    auto* menu = new QMenu(this);
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run,
                         std::function<bool()> rule = {}) {
        return m_actions->add(QString::fromLatin1(id), text, keys, std::move(run), std::move(rule));
    };
    menu->addAction(add("batch.new", tr("New empty batch"), QKeySequence::New, [this] { newEmpty(); }));
    menu->addAction(add("batch.fromMethod", tr("New batch from a method…"), {},
                        [this] { m_methodMenu->startMenu()->popup(mapToGlobal(rect().center()) - QPoint(150, 120)); }));
    menu->addAction(add("batch.open", tr("Open a batch…"), QKeySequence::Open, [this] { askOpen(); }));
    for (const Demo& demo : demos()) {
        const QString id = demo.name == "patulin" ? QStringLiteral("batch.demo")
                                                  : QStringLiteral("batch.demo.") + QString::fromStdString(demo.name);
        menu->addAction(add(qPrintable(id), tr("Start from the demo: %1").arg(QString::fromStdString(demo.title)), {},
                            [this, name = demo.name] { startDemo(name); }));
    }
    menu->addSeparator();
    menu->addAction(add("data.import", tr("Import a reading…"), QKeySequence(tr("Ctrl+I")), [this] { askImport(); }));
    menu->addAction(add("data.importFolder", tr("Import a folder of readings…"), {}, [this] { askImportFolder(); }));
    menu->addAction(add("data.watch", tr("Watch a folder for readings…"), {}, [this] { watchFolder(); }));
    menu->addAction(add("data.paste", tr("Paste a reading or names"), QKeySequence::Paste, [this] { paste(); }));
    menu->addSeparator();
    menu->addAction(add(
        "batch.title", tr("Details of the batch…"), {}, [this] { askDetails(); }, open));
    menu->addAction(add(
        "batch.saveAs", tr("Save as…"), QKeySequence(tr("Ctrl+S")), [this] { askSaveAs(); }, open));
    menu->addAction(add(
        "batch.saveCopy", tr("Save a copy…"), QKeySequence(tr("Ctrl+Shift+S")), [this] { askSaveCopy(); }, open));
    menu->addAction(add(
        "batch.close", tr("Close the batch"), QKeySequence(tr("Ctrl+W")), [this] { m_workspace.close(); }, open));
    menu->addSeparator();
    menu->addAction(add(
        "results.export", tr("Export results as CSV…"), QKeySequence(tr("Ctrl+Shift+E")), [this] { exportCsv(); },
        open));
    menu->addAction(add(
        "report.pdf", tr("Save report as PDF…"), QKeySequence(tr("Ctrl+E")), [this] { savePdf(); },
        [this] { return m_workspace.isOpen() && m_workspace.evaluation().fit.isUsable(); }));
    addExchangeActions(menu);
    menu->addSeparator();
    menu->addAction(add("app.quit", tr("Quit"), QKeySequence(tr("Ctrl+Q")), [this] { close(); }));
    m_menu->setMenu(menu);

    add(
        "edit.undo", tr("Undo"), QKeySequence::Undo, [this] { m_workspace.undo(); },
        [this] { return m_workspace.document() != nullptr && m_workspace.document()->canUndo(); });
    add(
        "edit.redo", tr("Redo"), QKeySequence(tr("Ctrl+Shift+Z")), [this] { m_workspace.redo(); },
        [this] { return m_workspace.document() != nullptr && m_workspace.document()->canRedo(); });
    add(
        "edit.copy", tr("Copy what the page shows"), QKeySequence::Copy,
        [this] {
            if (auto* table = qobject_cast<DataTable*>(QApplication::focusWidget())) {
                QApplication::clipboard()->setText(table->copyText());
            } else {
                page(m_page)->copy();
            }
        },
        open);
    add("app.find", tr("Find an action, sample or well"), QKeySequence(tr("Ctrl+K")),
        [this] { m_finder->setFocus(Qt::ShortcutFocusReason); });
    add("app.panel", tr("Show or hide the Working panel"), QKeySequence(tr("Ctrl+J")),
        [this] { m_panel->setVisible(m_panel->isHidden()); });
    for (int i = 0; i < kChainPages; ++i) {
        const auto which = static_cast<ChainPage>(i);
        add(
            qPrintable(QStringLiteral("go.%1").arg(i + 1)), tr("Go to %1").arg(pageTitle(which)),
            QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)), [this, which] { showPage(which); }, open);
    }
    add(
        "place.exclude", tr("Exclude or restore what is selected"), QKeySequence(Qt::Key_X),
        [this] { excludeOrRestore(analyteToExclude()); },
        [this] { return m_workspace.isOpen() && !m_workspace.selection().places.empty(); });
    add(
        "place.excludeWhole", tr("Exclude or restore what is selected for all analytes"),
        QKeySequence(Qt::SHIFT | Qt::Key_X), [this] { excludeOrRestore(0); },
        [this] { return m_workspace.isOpen() && !m_workspace.selection().places.empty(); });
    const auto hasSeveral = [this] { return m_workspace.isOpen() && m_workspace.batch().carriers.size() > 1; };
    const auto canStep = [this, hasSeveral] {
        return hasSeveral() || (m_workspace.isOpen() && m_workspace.evaluation().bracket != 0);
    };
    add(
        "carrier.next", tr("Show the next plate, list or bracket"), QKeySequence(Qt::CTRL | Qt::Key_PageDown),
        [this] { stepCarrier(1); }, canStep);
    add(
        "carrier.previous", tr("Show the plate, list or bracket before"), QKeySequence(Qt::CTRL | Qt::Key_PageUp),
        [this] { stepCarrier(-1); }, canStep);
    add("carrier.addPlate", tr("Add a plate"), {}, [this] { addCarrier(CarrierKind::Plate); });
    add("carrier.addList", tr("Type a list of readings"), {}, [this] { addCarrier(CarrierKind::RunList); });
    add(
        "carrier.rename", tr("Name the plate or list shown…"), {}, [this] { renameCarrier(); }, open);
    add(
        "carrier.remove", tr("Remove the plate or list shown"), {},
        [this] { m_workspace.apply(removeCarrier(m_workspace.newest(), m_workspace.carrierNumber())); }, hasSeveral);
    add(
        "method.addAnalyte", tr("Add an analyte…"), {}, [this] { addAnalyte(); },
        [this] { return m_workspace.isOpen(); });
    add(
        "method.removeAnalyte", tr("Remove the analyte shown"), {}, [this] { removeAnalyte(); },
        [this] { return m_workspace.isOpen() && m_workspace.batch().method.analytes.size() > 1; });
}

/// Parts of the batch that go to files of their own.
void MainWindow::addExchangeActions(QMenu* menu) {
    const auto open = [this] { return m_workspace.isOpen(); };
    const auto hasPicture = [this] { return isShown(m_page) && page(m_page)->picture() != nullptr; };
    const auto hasCurve = [this] { return m_workspace.isOpen() && m_workspace.evaluation().fit.isUsable(); };
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, void (Exchange::*run)(),
                         std::function<bool()> rule) {
        QAction* action = m_actions->add(
            QString::fromLatin1(id), text, keys, [this, run] { (m_exchange.*run)(); }, std::move(rule));
        menu->addAction(action);
    };
    add("report.print", tr("Print the report…"), QKeySequence(tr("Ctrl+P")), &Exchange::printReport, hasCurve);
    add("results.workbook", tr("Export a workbook (XLSX)…"), {}, &Exchange::exportWorkbook, open);
    menu->addAction(m_actions->add(
        QStringLiteral("page.picture"), tr("Save the picture…"), QKeySequence(tr("Ctrl+Shift+P")),
        [this] { m_exchange.savePicture(*page(m_page)->picture()); }, hasPicture));
    menu->addAction(m_actions->add(
        QStringLiteral("page.copyPicture"), tr("Copy the picture"), QKeySequence(tr("Ctrl+Shift+C")),
        [this] { m_exchange.copyPicture(*page(m_page)->picture()); }, hasPicture));
    menu->addSeparator();
    add("layout.export", tr("Export the layout as CSV…"), {}, &Exchange::exportLayout, open);
    add("samples.import", tr("Take sample names from a file…"), {}, &Exchange::importSamples, open);
    add("layout.import", tr("Take a layout from CSV…"), {}, &Exchange::importLayout, open);
    auto* lists = menu->addMenu(tr("Runs and analytes"));
    const auto addList = [&](const char* id, const QString& words, void (Exchange::*run)(),
                             std::function<bool()> rule) {
        lists->addAction(m_actions->add(
            QString::fromLatin1(id), words, {}, [this, run] { (m_exchange.*run)(); }, std::move(rule)));
    };
    const auto hasRuns = [this] { return m_workspace.isOpen() && m_workspace.carrier().kind == CarrierKind::RunList; };
    const auto hasSeveral = [this] { return m_workspace.isOpen() && m_workspace.batch().method.analytes.size() > 1; };
    const auto hasChannels = [this] { return m_workspace.isOpen() && m_workspace.batch().channels().size() > 1; };
    const auto hasQualifier = [this] { return m_workspace.isOpen() && !m_workspace.analyte().qualifiers.empty(); };
    const auto hasTraces = [this] { return m_workspace.isOpen() && m_workspace.batch().hasTraces(); };
    lists->addAction(m_actions->add(QStringLiteral("instrument.plate"), tr("Read a plate from an instrument…"), {},
                                    [this] { readPlate(); }));
    addList("runs.plan", tr("Plan runs from a list…"), &Exchange::planRuns, open);
    addList("runs.build", tr("Build the run list…"), &Exchange::buildRunList, open);
    addList("runs.standards", tr("How the standards are made…"), &Exchange::planStandards, open);
    addList("runs.rule", tr("How lists are measured…"), &Exchange::setRunRule, open);
    addList("runs.diluted", tr("Measure samples above ULOQ again, diluted"), &Exchange::repeatDiluted, hasTraces);
    lists->addSeparator();
    addList("runs.roles", tr("Take roles from the names of the runs"), &Exchange::takeRolesFromNames, hasRuns);
    addList("runs.nameRules", tr("Roles by names of runs…"), &Exchange::setNameRules, open);
    lists->addSeparator();
    addList("method.analytes", tr("Take analytes from a list…"), &Exchange::takeAnalytes, open);
    addList("method.forAll", tr("Settings of this analyte for all"), &Exchange::applyToAll, hasSeveral);
    addList("method.byName", tr("Group channels by their names"), &Exchange::groupChannelsByName, hasChannels);
    addList("method.byTwo", tr("Group channels two by two"), &Exchange::groupChannelsByTwo, hasChannels);
    addList("method.byThree", tr("Group channels three by three"), &Exchange::groupChannelsByThree, hasChannels);
    addList("method.quantifier", tr("Make the first qualifier the quantifier"), &Exchange::swapQuantifier,
            hasQualifier);
    menu->addAction(m_actions->add(
        QStringLiteral("method.keep"), tr("Keep the method as a revision"), {}, [this] { m_methodMenu->keep(); },
        open));
    menu->addAction(m_actions->add(
        QStringLiteral("method.take"), tr("Take a method from a file…"), {}, [this] { m_methodMenu->takeFromFile(); },
        open));
    add("curve.keep", tr("Keep this curve…"), {}, &Exchange::keepCurve, hasCurve);
    add("curve.use", tr("Read off a kept curve…"), {}, &Exchange::useKeptCurve, open);
    menu->addAction(m_actions->add(
        QStringLiteral("curve.overlay"), tr("Lay a kept curve behind this one…"), {},
        [this] {
            if (const auto kept = m_exchange.askKeptCurve()) {
                showPage(ChainPage::Curve);
                findChild<CurvePlot*>()->addKept(*kept);
            }
        },
        open));
    add("curve.own", tr("Read off the curve of the own standards"), {}, &Exchange::useOwnStandards,
        [this] { return m_workspace.isOpen() && m_workspace.analyte().source.curve == CurveOf::Kept; });
}

} // namespace nuvat
