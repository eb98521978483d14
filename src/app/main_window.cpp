#include "main_window.h"

#include "actions/actions.h"
#include "dialogs/file_dialogs.h"
#include "jobs/job.h"
#include "kinds/reading_kind.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/report_file.h"
#include "nuvat/workflow/export.h"
#include "panels/import_page.h"
#include "panels/page.h"
#include "panels/start_page.h"
#include "panels/working_panel.h"
#include "session/acquisition.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/frame_widgets.h"

#include <algorithm>
#include <QApplication>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QStackedWidget>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr int kPanelFrom = 1260; // narrower windows give the page the room of the Working panel

/// The mark of the application: a falling curve in a square.
class Mark : public QWidget {
public:
    explicit Mark(QWidget* parent) : QWidget(parent) { setFixedSize(26, 26); }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().plum);
        painter.drawRoundedRect(rect(), 6, 6);
        painter.setPen(theme().onPlum);
        painter.setFont(uiFont(15, QFont::Bold));
        painter.drawText(rect(), Qt::AlignCenter, QStringLiteral("N"));
    }
};

} // namespace

MainWindow::MainWindow(Workspace& workspace, FileDialogs& dialogs)
    : m_workspace(workspace), m_dialogs(dialogs), m_exchange(workspace, dialogs, this) {
    setObjectName(QStringLiteral("window"));
    setWindowTitle(QStringLiteral("Nuvat"));
    setAcceptDrops(true);
    setMinimumSize(1000, 660);
    resize(1280, 800);
    build();
    makeActions();
    connectAll();
    m_panel->hide();
    Acquisition::of(m_workspace); // what an earlier program was measuring comes back with its batch
    showPage(ChainPage::Data);
}

MainWindow::~MainWindow() = default;

void MainWindow::build() {
    auto* central = new QWidget(this);
    central->setObjectName(QStringLiteral("window"));
    auto* outer = new QVBoxLayout(central);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(0);
    outer->addWidget(makeTopBar());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    m_rail = new ChainRail(m_workspace, central);
    middle->addWidget(m_rail);
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    m_notice = new NoticeBar(central);
    column->addWidget(m_notice);
    m_stack = new QStackedWidget(central);
    column->addWidget(m_stack, 1);
    middle->addLayout(column, 1);
    m_panel = new WorkingPanel(m_workspace, central);
    middle->addWidget(m_panel);
    outer->addLayout(middle, 1);
    m_status = new StatusLine(central);
    outer->addWidget(m_status);
    setCentralWidget(central);
    m_start = new StartPage(m_stack);
    m_stack->addWidget(m_start);
}

QWidget* MainWindow::makeTopBar() {
    auto* bar = new QFrame(this);
    bar->setObjectName(QStringLiteral("topBar"));
    bar->setFixedHeight(frame::kTopBar);
    auto* layout = new QHBoxLayout(bar);
    layout->setContentsMargins(14, 0, 14, 0);
    layout->setSpacing(9);
    layout->addWidget(new Mark(bar));
    m_menu = new QToolButton(bar);
    m_menu->setObjectName(QStringLiteral("batchMenu"));
    m_menu->setText(tr("&Batch"));
    m_menu->setPopupMode(QToolButton::InstantPopup);
    layout->addWidget(m_menu);
    m_title = makeLabel({}, "title", bar);
    m_title->setObjectName(QStringLiteral("batchTitle"));
    layout->addWidget(m_title);
    m_place = makeLabel({}, "mute", bar);
    layout->addWidget(m_place);
    m_method = makeButton({}, "chip", QStringLiteral("methodChip"), bar);
    m_method->setToolTip(tr("The method: keep it as a revision, take another, see what differs"));
    m_methodMenu = new MethodMenu(m_workspace, m_dialogs, this);
    m_method->setMenu(m_methodMenu);
    layout->addWidget(m_method);
    m_analyte = new Choice(bar);
    m_analyte->setObjectName(QStringLiteral("analyteShown"));
    m_analyte->setAccessibleName(tr("Analyte shown"));
    m_analyte->setToolTip(tr("Analyte shown on every page"));
    layout->addWidget(m_analyte);
    m_bracket = new Choice(bar);
    m_bracket->setObjectName(QStringLiteral("bracketShown"));
    m_bracket->setAccessibleName(tr("Bracket shown"));
    m_bracket->setToolTip(tr("Samples between two sets of standards, whose curve is shown (Ctrl+PgDn the next)"));
    layout->addWidget(m_bracket);
    layout->addStretch(1);
    m_finder = new Finder([this] { return findings(); }, bar);
    m_finder->setMinimumWidth(180);
    m_finder->setMaximumWidth(270);
    layout->addWidget(m_finder, 2);
    m_undo = makeButton(tr("Undo"), "normal", QStringLiteral("undo"), bar);
    m_undo->setIcon(icon(QStringLiteral("arrow-back-up"), theme().ink));
    m_redo = makeButton({}, "normal", QStringLiteral("redo"), bar);
    m_redo->setIcon(icon(QStringLiteral("arrow-forward-up"), theme().ink));
    m_redo->setAccessibleName(tr("Redo"));
    m_primary = makeButton(tr("Save report…"), "primary", QStringLiteral("primary"), bar);
    layout->addWidget(m_undo);
    layout->addWidget(m_redo);
    layout->addWidget(m_primary);
    return bar;
}

MainWindow::PageKey MainWindow::keyOf(ChainPage which) const {
    const ReadingKind& kind = kindOf(m_workspace.batch(), m_workspace.carrierNumber());
    return {which, kind.hasPage(which) ? &kind : nullptr};
}

Page* MainWindow::page(ChainPage which) {
    const PageKey key = keyOf(which);
    const auto found = m_pages.find(key);
    return found == m_pages.end() ? addPage(key) : found->second;
}

bool MainWindow::isShown(ChainPage which) const {
    const auto found = m_pages.find(keyOf(which));
    return m_workspace.isOpen() && found != m_pages.end() && m_stack->currentWidget() == found->second;
}

Page* MainWindow::addPage(PageKey key) {
    const auto& [which, kind] = key;
    Page* added = kind ? kind->makePage(which, m_workspace, m_stack)
                       : chain()[static_cast<std::size_t>(which)].make(m_workspace, m_stack);
    m_pages[key] = added;
    m_stack->addWidget(added);
    if (QWidget* settings = added->settings()) {
        m_panel->addSettings(settings);
    }
    for (PageAction& action : added->actions()) {
        m_actions
            ->add(action.id, action.text, {}, std::move(action.run),
                  [this, added] { return m_workspace.isOpen() && m_stack->currentWidget() == added; })
            ->setShortcuts(action.keys);
    }
    connect(added, &Page::factsChanged, this, &MainWindow::refreshStatus);
    connect(added, &Page::pageAsked, this, &MainWindow::showPage);
    connect(added, &Page::actionAsked, this, [this](const QString& id) { m_actions->get(id)->trigger(); });
    connect(added, &Page::settingsAsked, this, [this, added] {
        m_panel->show();
        added->enterSettings();
    });
    return added;
}

ImportPage* MainWindow::importPage() {
    if (m_import == nullptr) {
        m_import = new ImportPage(m_stack);
        m_stack->addWidget(m_import);
        connect(m_import, &ImportPage::accepted, this, &MainWindow::importPreviewed);
        connect(m_import, &ImportPage::rejected, this, &MainWindow::endImport);
    }
    return m_import;
}

void MainWindow::connectAll() {
    connect(m_rail, &ChainRail::chosen, this, [this](ChainPage which) {
        if (m_workspace.isOpen()) {
            showPage(which);
        } else {
            m_rail->setCurrent(m_page);
        }
    });
    const auto trigger = [this](const char* id) {
        return [this, id] { m_actions->get(QString::fromLatin1(id))->trigger(); };
    };
    connect(m_undo, &QPushButton::clicked, this, trigger("edit.undo"));
    connect(m_redo, &QPushButton::clicked, this, trigger("edit.redo"));
    connect(m_primary, &QPushButton::clicked, this, trigger("report.pdf"));
    connect(m_methodMenu, &MethodMenu::curveAsked, this, [this] { showPage(ChainPage::Curve); });
    connect(m_methodMenu, &MethodMenu::startAsked, this, [this](const Result<MethodFile>& method) {
        if (!method) { // nothing is begun with what cannot be read
            m_workspace.tell(method.error());
            return;
        }
        newEmpty();
        m_workspace.afterwards([this, method] { m_methodMenu->take(method); });
    });
    connect(m_methodMenu, &MethodMenu::kept, this, &MainWindow::refreshFrame);
    connect(m_analyte, &QComboBox::activated, this, [this](int index) { m_workspace.showAnalyte(index + 1); });
    connect(m_bracket, &QComboBox::activated, this, [this](int index) { m_workspace.showBracket(index + 1); });
    m_start->setMethods(m_methodMenu->startMenu());
    connect(m_start, &StartPage::openAsked, this, &MainWindow::askOpen);
    connect(m_start, &StartPage::importAsked, this, &MainWindow::askImport);
    connect(m_start, &StartPage::demoChosen, this, [this](const QString& name) { startDemo(name.toStdString()); });
    connect(m_start, &StartPage::newAsked, this, &MainWindow::newEmpty);
    connect(m_start, &StartPage::recentChosen, this, &MainWindow::openFile);
    connect(m_panel, &WorkingPanel::excludeAsked, this,
            [this] { exclude(m_workspace.selection().places, analyteToExclude()); });
    connect(m_panel, &WorkingPanel::restoreAsked, this, &MainWindow::restoreSelected);
    connect(m_panel, &WorkingPanel::pageAsked, this, &MainWindow::showPage);
    connect(&m_workspace, &Workspace::noticed, m_notice, &NoticeBar::tell);
    connect(&m_workspace, &Workspace::offered, m_notice, &NoticeBar::offer);
    connect(&m_workspace, &Workspace::edited, m_notice, &NoticeBar::withdrawOffer);
    connect(&m_workspace, &Workspace::changed, this, &MainWindow::refreshFrame);
    connect(&m_workspace, &Workspace::changed, this, &MainWindow::followKind);
    connect(&m_workspace, &Workspace::carrierChanged, this, &MainWindow::followKind);
    connect(&m_workspace, &Workspace::becameLate, this, &MainWindow::waitForEvaluation);
    connect(&m_workspace, &Workspace::selectionChanged, this, [this] {
        m_actions->refresh();
        refreshStatus();
    });
    connect(&m_workspace, &Workspace::opened, this, [this] {
        m_panel->setVisible(m_workspace.isOpen() && width() >= kPanelFrom);
        remember();
        m_notice->hide();
        showPage(m_workspace.batch().firstReading(m_workspace.analyteNumber()) == nullptr ? ChainPage::Data : m_page);
    });
}

void MainWindow::showPage(ChainPage which) {
    m_page = which;
    m_waiting.clear(); // leaving the preview leaves the files behind it; endImport() goes on with them
    m_rail->setCurrent(which);
    m_panel->setPage(which);
    m_panel->showSettings(m_workspace.isOpen() ? page(which)->settings() : nullptr);
    m_stack->setCurrentWidget(m_workspace.isOpen() ? static_cast<QWidget*>(page(which)) : m_start);
    if (!m_workspace.isOpen()) {
        showBatchesToOpen();
        m_start->findChild<QPushButton*>(QStringLiteral("startImport"))->setFocus();
    } else if (QWidget* main = page(which)->mainWidget()) {
        main->setFocus(Qt::OtherFocusReason);
    }
    refreshFrame();
}

/// What is shown has become another kind of reading: its page takes the place of the one before.
void MainWindow::followKind() {
    const bool isPage = std::any_of(m_pages.begin(), m_pages.end(),
                                    [this](const auto& entry) { return entry.second == m_stack->currentWidget(); });
    if (m_workspace.isOpen() && isPage && !isShown(m_page)) {
        showPage(m_page);
    }
}

void MainWindow::refreshFrame() {
    const bool isOpen = m_workspace.isOpen();
    const Batch& batch = m_workspace.batch();
    m_title->setText(isOpen ? text(batch.info.title) : QStringLiteral("Nuvat"));
    QString where;
    if (const Reading* reading = isOpen ? batch.firstReading(m_workspace.analyteNumber()) : nullptr) {
        const std::string& formula = valueFormula(m_workspace.analyte().source.rule);
        where = text(!formula.empty()                ? formula
                     : reading->slot.channel.empty() ? reading->source
                                                     : reading->slot.channel);
    }
    m_place->setText(where);
    m_method->setText(m_methodMenu->title());
    m_analyte->clear();
    for (const Analyte& analyte : batch.method.analytes) {
        m_analyte->addItem(text(analyte.name));
    }
    m_analyte->setCurrentIndex(m_workspace.analyteNumber() - 1);
    m_analyte->setVisible(isOpen && batch.method.analytes.size() > 1);
    refreshBracket();
    for (QWidget* widget : std::initializer_list<QWidget*>{m_undo, m_redo, m_primary}) {
        widget->setVisible(isOpen);
    }
    fitTopBar();
    m_rail->setEnabled(isOpen);
    refreshUndo();
    m_primary->setEnabled(m_actions->get(QStringLiteral("report.pdf"))->isEnabled());
    if (isOpen) {
        m_title->setToolTip(m_workspace.openBatch().isNamed
                                ? QString::fromStdString(m_workspace.openBatch().path.string())
                                : tr("Kept in your data folder until you give it a name (Ctrl+S)"));
    }
    setWindowTitle(isOpen ? tr("%1 – Nuvat").arg(text(batch.info.title)) : QStringLiteral("Nuvat"));
    refreshStatus();
}

void MainWindow::refreshBracket() {
    const int shown = m_workspace.isOpen() ? m_workspace.evaluation().bracket : 0;
    m_bracket->setVisible(shown != 0);
    m_bracket->clear();
    if (shown == 0) {
        return;
    }
    const auto all = bracketsOf(m_workspace.batch(), m_workspace.carrierNumber());
    for (const Bracket& one : all) {
        m_bracket->addItem(tr("Bracket %1 of %2").arg(one.number).arg(all.size()));
        m_bracket->setItemData(one.number - 1, tr("Runs %1 to %2").arg(one.first + 1).arg(one.last + 1),
                               Qt::ToolTipRole);
    }
    m_bracket->setCurrentIndex(shown - 1);
}

/// A narrow window keeps the title, the analyte and the finder.
void MainWindow::fitTopBar() {
    constexpr int kBracketTakes = 300;
    const int room = width() - (m_bracket->isHidden() ? 0 : kBracketTakes);
    const bool isTight = room < kPanelFrom && !m_analyte->isHidden();
    constexpr int kPlaceFrom = 1100; // what is read stands on Data too
    m_place->setVisible(!isTight && room >= kPlaceFrom);
    m_method->setVisible(m_workspace.isOpen() && !isTight);
}

/// Undo and redo follow the newest edit, also while it has still to be evaluated.
void MainWindow::refreshUndo() {
    m_actions->refresh();
    const Document* document = m_workspace.document();
    m_undo->setEnabled(document != nullptr && document->canUndo());
    m_redo->setEnabled(document != nullptr && document->canRedo());
    if (document != nullptr) {
        m_undo->setToolTip(plainTip(tr("Ctrl+Z: %1").arg(text(document->undoLabel()))));
        m_redo->setToolTip(plainTip(tr("Redo, Ctrl+Shift+Z: %1").arg(text(document->redoLabel()))));
    }
}

/// Says so when an evaluation takes long enough to be noticed; the way back is the edit before it.
void MainWindow::waitForEvaluation() {
    refreshUndo();
    constexpr int kNoticedMillis = 500;
    QTimer::singleShot(kNoticedMillis, this, [this, shown = m_workspace.revision()] {
        // What has shown something in between is a hand that is faster, not an evaluation that takes long.
        if (m_workspace.isLate() && m_workspace.revision() == shown) {
            m_notice->busy(tr("Evaluating %1 …").arg(text(m_workspace.newest().info.title)),
                           [this] { m_workspace.undo(); });
            m_workspace.afterwards([this] { m_notice->done(); });
        }
    });
}

void MainWindow::refreshStatus() {
    if (!m_workspace.isOpen()) {
        m_status->show(tr("Drop a batch or a reading anywhere in this window"), tr("Ctrl+K find any action"));
        return;
    }
    const auto& places = m_workspace.selection().places;
    QString facts = page(m_page)->facts();
    if (!places.empty() && !page(m_page)->factsComeFirst()) {
        std::vector<double> values;
        for (const Place place : places) {
            const Response& value = m_workspace.evaluation().at(place);
            if (value.value && value.state != ResponseState::Excluded) {
                values.push_back(*value.value);
            }
        }
        const Description d = describe(values);
        facts = places.size() == 1 ? tr("%1 selected").arg(text(placeTitle(m_workspace.batch(), places.front())))
                                   : tr("%1 selected").arg(text(countOfPlaces(m_workspace.batch(), places)));
        if (d.mean) {
            facts += tr(" · n %1 · mean response %2").arg(d.n).arg(shown(formatFigures(*d.mean, 4)));
        }
        if (d.sd) {
            facts += tr(" · SD %1").arg(shown(formatFigures(*d.sd, 2)));
        }
        if (d.cvPercent) {
            facts += tr(" · CV %1").arg(shown(formatPercent(*d.cvPercent)));
        }
    }
    m_status->show(facts, page(m_page)->keysHint());
}

std::vector<Finding> MainWindow::findings() {
    std::vector<Finding> out;
    for (QAction* action : m_actions->all()) {
        if (action->isEnabled() && action->objectName() != QStringLiteral("app.find")) {
            out.push_back({action->text().remove(u'&'), action->shortcut().toString(QKeySequence::NativeText),
                           [action] { action->trigger(); }});
        }
    }
    const Batch& batch = m_workspace.batch();
    for (const Role role : {Role::Unknown, Role::Qc, Role::Standard, Role::CheckStandard, Role::NegativeControl,
                            Role::Spike, Role::Addition}) {
        for (const Assignment group : m_workspace.index().groupsOf(role)) {
            const QString sampleName = text(shortName(batch, group));
            const QString full = text(fullName(batch, group));
            out.push_back({full == sampleName ? sampleName : sampleName + QStringLiteral(" ") + full, tr("sample"),
                           [this, group] {
                               m_workspace.selectGroup(group);
                               if (m_page == ChainPage::Checks || m_page == ChainPage::Report) {
                                   showPage(group.role == Role::Standard ? ChainPage::Curve : ChainPage::Results);
                               }
                           }});
        }
    }
    if (m_workspace.isOpen()) {
        for (const Place place : placesOf(batch)) {
            out.push_back({text(placeTitle(batch, place)), {}, [this, place] { m_workspace.select({place}); }});
        }
    }
    return out;
}

/// Hides the side panel below kPanelFrom and restores it above; Ctrl+J overrides.
void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    fitTopBar();
    const auto isNarrow = [](int width) { return width < kPanelFrom; };
    if (m_workspace.isOpen() && isNarrow(event->size().width()) != isNarrow(event->oldSize().width())) {
        m_panel->setVisible(!isNarrow(event->size().width()));
    }
}

void MainWindow::closeEvent(QCloseEvent* event) {
    m_workspace.commitPending();
    QMainWindow::closeEvent(event);
}

void MainWindow::keyPressEvent(QKeyEvent* event) {
    // Space reaches here only if the focused widget ignored it.
    const bool isOnPage = isShown(m_page);
    if (event->key() == Qt::Key_Space && isOnPage && page(m_page)->next()) {
        return;
    }
    if (event->key() == Qt::Key_Escape && m_import != nullptr && m_stack->currentWidget() == m_import) {
        endImport();
    } else if (event->key() == Qt::Key_Escape && isOnPage && page(m_page)->escape()) {
        return;
    } else if (event->key() == Qt::Key_Escape) {
        m_workspace.clearSelection();
    } else {
        QMainWindow::keyPressEvent(event);
    }
}

} // namespace nuvat
