// Every action of the window: its words, its keys and where it applies.
#include "actions/actions.h"
#include "dialogs/file_dialogs.h"
#include "main_window.h"
#include "panels/checks_page.h"
#include "panels/curve_page.h"
#include "panels/data_page.h"
#include "panels/import_page.h"
#include "panels/layout_page.h"
#include "panels/report_page.h"
#include "panels/response_page.h"
#include "panels/results_page.h"
#include "panels/working_panel.h"
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
    const auto on = [this](std::initializer_list<ChainPage> pages) {
        return [this, pages = std::vector<ChainPage>(pages)] {
            return m_workspace.isOpen() && m_stack->currentWidget() == page(m_page) &&
                   std::find(pages.begin(), pages.end(), m_page) != pages.end();
        };
    };
    auto* menu = new QMenu(this);
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run,
                         std::function<bool()> rule = {}) {
        return m_actions->add(QString::fromLatin1(id), text, keys, std::move(run), std::move(rule));
    };
    menu->addAction(add("batch.new", tr("New empty batch"), QKeySequence::New, [this] { newEmpty(); }));
    menu->addAction(add("batch.open", tr("Open a batch…"), QKeySequence::Open, [this] { askOpen(); }));
    menu->addAction(add("batch.demo", tr("Start from the demo"), {}, [this] { startDemo(); }));
    menu->addSeparator();
    menu->addAction(add("data.import", tr("Import a reading…"), QKeySequence(tr("Ctrl+I")), [this] { askImport(); }));
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
    constexpr std::array<std::pair<Role, int>, 5> kRoleKeys{{{Role::Standard, Qt::Key_1},
                                                             {Role::Blank, Qt::Key_2},
                                                             {Role::Qc, Qt::Key_3},
                                                             {Role::Unknown, Qt::Key_4},
                                                             {Role::Empty, Qt::Key_0}}};
    const QStringList roleWords{tr("standard"), tr("blank"), tr("QC"), tr("unknown"), tr("empty")};
    for (std::size_t i = 0; i < kRoleKeys.size(); ++i) {
        const auto [role, key] = kRoleKeys[i];
        QAction* action = add(
            qPrintable(QStringLiteral("layout.role%1").arg(i + 1)),
            tr("Role of the selected wells: %1").arg(roleWords[static_cast<qsizetype>(i)]), QKeySequence(key),
            [this, role = role] { m_layout->useRole(role); }, on({ChainPage::Layout}));
        if (role == Role::Empty) {
            action->setShortcuts({QKeySequence(key), QKeySequence(Qt::Key_Delete)});
        }
    }
    add(
        "layout.fill", tr("Fill the rest of the plate"), QKeySequence(Qt::Key_E), [this] { m_layout->fillTheRest(); },
        on({ChainPage::Layout}));
    add(
        "place.exclude", tr("Exclude or restore what is selected"), QKeySequence(Qt::Key_X),
        [this] { excludeOrRestore(); },
        [this] { return m_workspace.isOpen() && !m_workspace.selection().places.empty(); });
    add(
        "method.addAnalyte", tr("Add an analyte…"), {}, [this] { addAnalyte(); },
        [this] { return m_workspace.isOpen(); });
    add(
        "method.removeAnalyte", tr("Remove the analyte shown"), {}, [this] { removeAnalyte(); },
        [this] { return m_workspace.isOpen() && m_workspace.batch().method.analytes.size() > 1; });
    add(
        "curve.readOff", tr("Read off the curve"), QKeySequence(Qt::Key_R), [this] { m_curve->toggleReadOff(); },
        on({ChainPage::Curve}));
    add(
        "curve.settings", tr("Settings of the curve"), QKeySequence(Qt::Key_S),
        [this] { Q_EMIT m_curve->settingsAsked(); }, on({ChainPage::Curve}));
    add(
        "checks.limit", tr("Change the limit of the selected criterion"), QKeySequence(Qt::Key_L),
        [this] { m_checks->changeLimit(); }, on({ChainPage::Checks}));
    add(
        "curve.fit", tr("Zoom the curve to fit"), QKeySequence(Qt::Key_Z), [this] { m_curve->zoomToFit(); },
        on({ChainPage::Curve}));
    add(
        "data.unusable", tr("Next unusable well"), QKeySequence(Qt::Key_N), [this] { m_data->nextUnusable(); },
        on({ChainPage::Data}));
    add(
        "data.show", tr("Show heat, numbers or both"), QKeySequence(Qt::Key_H), [this] { m_data->cycleShow(); },
        on({ChainPage::Data}));
}

} // namespace nuvat
