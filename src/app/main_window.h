#pragma once

#include "dialogs/exchange.h"
#include "dialogs/method_menu.h"
#include "session/workspace.h"
#include "widgets/chain_rail.h"

#include <map>
#include <QMainWindow>

class QLabel;
class QMenu;
class QPushButton;
class QStackedWidget;
class QToolButton;

namespace nuvat {

class FolderWatch;
class Actions;
class Choice;
class ReadingKind;
class Finder;
class ImportPage;
struct ImportOffer;
class TraceImportPage;
struct FilesRead;
struct TraceFile;
class NoticeBar;
class Page;
class StartPage;
class StatusLine;
class WorkingPanel;

/// The window: assembles top bar, chain, pages, Working panel and status line, and owns the actions.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow(Workspace& workspace, FileDialogs& dialogs);
    ~MainWindow() override;

    void openFile(const QString& path);     ///< a batch is opened, anything else is imported
    void record(const QString& instrument); ///< one run more of the batch, at "host:port"
    void startDemo(const std::string& name);
    /// Shows the preview of the demo plate as if a file of that name had been dropped; for pictures.
    void previewText(const std::string& name);
    void showPage(ChainPage page);
    ChainPage currentPage() const { return m_page; }
    Actions& actions() { return *m_actions; }
    NoticeBar* notice() const { return m_notice; }
    WorkingPanel* panel() const { return m_panel; }

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void closeEvent(QCloseEvent* event) override;

private:
    void build();
    QWidget* makeTopBar();
    void makeActions();
    void connectAll();
    void followKind();
    void refreshFrame();
    void fitTopBar();
    void refreshUndo();
    void waitForEvaluation();
    void refreshStatus();
    std::vector<struct Finding> findings();
    /// A page of the chain, or the one that the kind of what is shown has in its place.
    using PageKey = std::pair<ChainPage, const ReadingKind*>;
    PageKey keyOf(ChainPage which) const;
    Page* page(ChainPage which); ///< made when it is first asked for
    Page* addPage(PageKey key);
    bool isShown(ChainPage which) const;
    ImportPage* importPage();

    void openBatch(const QString& path);
    void newEmpty();
    void askOpen();
    void askSaveAs();
    void askSaveCopy();
    void askImport();
    void askImportFolder();
    void watchFolder(); ///< or, while one is watched, no longer
    void paste();
    void importFile(const QString& path);
    void readWaiting();
    void showRead(FilesRead read, bool isPasted = false);
    void takeText(const QString& typed);
    PlateCut plateCut() const;
    void showImport(ImportOffer offer);
    void showTraceImport(std::vector<TraceFile> files, const QStringList& unread);
    void importPreviewedTraces();
    void importPreviewed();
    void endImport();
    void showBatchesToOpen(); ///< on the start page
    void takeDropped(const QList<QUrl>& urls);
    void importNext(); ///< the next of several files that were dropped together
    void askDetails();
    /// The analyte shown, where a run holds several; 0: a place is left out as a whole.
    int analyteToExclude() const;
    void excludeOrRestore(int analyte);
    void addAnalyte();
    void removeAnalyte();
    void stepCarrier(int by); ///< shows the next plate, list or bracket, or the one before
    void refreshBracket();
    void readPlate();
    void addCarrier(CarrierKind kind);
    void renameCarrier();
    void exclude(const std::vector<Place>& places, int analyte);
    void restoreSelected();
    void savePdf();
    void exportCsv();
    void addExchangeActions(QMenu* menu);
    void remember();
    bool ensureBatch();

    Workspace& m_workspace;
    FileDialogs& m_dialogs;
    Exchange m_exchange;
    FolderWatch* m_watch = nullptr;
    Actions* m_actions = nullptr;
    ChainPage m_page = ChainPage::Data;
    QStringList m_waiting;         ///< files that are still to be previewed
    bool m_followsAnother = false; ///< the file previewed was dropped with others that went before
    bool m_isReading = false;      ///< one of them, off the UI thread
    QLabel* m_title = nullptr;
    QLabel* m_place = nullptr;
    QPushButton* m_method = nullptr;
    MethodMenu* m_methodMenu = nullptr;
    Choice* m_analyte = nullptr; ///< shown when there are several
    Choice* m_bracket = nullptr; ///< shown where each has a curve
    QToolButton* m_menu = nullptr;
    QPushButton* m_undo = nullptr;
    QPushButton* m_redo = nullptr;
    QPushButton* m_primary = nullptr;
    Finder* m_finder = nullptr;
    ChainRail* m_rail = nullptr;
    QStackedWidget* m_stack = nullptr;
    NoticeBar* m_notice = nullptr;
    WorkingPanel* m_panel = nullptr;
    StatusLine* m_status = nullptr;
    StartPage* m_start = nullptr;
    ImportPage* m_import = nullptr;
    TraceImportPage* m_traceImport = nullptr;
    std::map<PageKey, Page*> m_pages; ///< those that were shown; the kind is null for the page that all share
};

} // namespace nuvat
