// How readings come in: dialogs, drops, pasted blocks, and what is previewed of them. The frame is in main_window.cpp.
#include "main_window.h"

#include "actions/actions.h"
#include "dialogs/file_dialogs.h"
#include "dialogs/method_menu.h"
#include "jobs/folder_watch.h"
#include "jobs/job.h"
#include "nuvat/report/theme.h"
#include "nuvat/workflow/plate_recipe.h"
#include "nuvat/workflow/trace_import.h"
#include "panels/import_page.h"
#include "panels/page.h"
#include "panels/trace_import_page.h"
#include "panels/working_panel.h"
#include "widgets/frame_widgets.h"

#include <algorithm>
#include <QApplication>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QMimeData>
#include <QStackedWidget>
#include <QTimer>
#include <QUrl>

namespace nuvat {

namespace {

constexpr int kBusyAfterMillis = 250; // work that is done sooner shows no progress

} // namespace

void MainWindow::askImport() {
    const auto paths = m_dialogs.openFiles(this, tr("Import readings"),
                                           tr("Readings (*.csv *.tsv *.txt *.xlsx *.ods *.jdx *.dx *.jcm *.cdf *.mzml "
                                              "*.mzML *.mzxml *.mzXML *.gz);;All files (*)"));
    if (!paths.isEmpty()) {
        m_waiting = paths + m_waiting;
        importNext();
    }
}

void MainWindow::askImportFolder() {
    if (const auto folder = m_dialogs.openFolder(this, tr("Import a folder of readings"))) {
        takeDropped({QUrl::fromLocalFile(*folder)});
    }
}

/// What an instrument leaves in a folder comes to the preview as if it had been dropped.
void MainWindow::watchFolder() {
    if (m_watch == nullptr) {
        m_watch = new FolderWatch(this);
        connect(m_watch, &FolderWatch::arrived, this, [this](const QStringList& paths) {
            QList<QUrl> urls;
            for (const QString& path : paths) {
                if (!path.endsWith(QStringLiteral(".nuvat"), Qt::CaseInsensitive)) { // batches are no readings
                    urls << QUrl::fromLocalFile(path);
                }
            }
            if (!urls.isEmpty()) {
                takeDropped(urls);
            }
        });
    }
    if (!m_watch->folder().isEmpty()) {
        m_workspace.tell(tr("%1 is no longer watched.").arg(m_watch->folder()), false);
        m_watch->stop();
        return;
    }
    if (const auto folder = m_dialogs.openFolder(this, tr("Watch a folder for readings"))) {
        m_watch->start(*folder);
        m_workspace.tell(
            tr("%1 is watched: what is new there comes to the preview. The same action ends it.").arg(*folder), false);
    }
}

void MainWindow::importFile(const QString& path) {
    m_waiting.prepend(path);
    importNext();
}

/// Reads what waits, off the UI thread: one file of plates, or all files of traces up to the next one of plates.
void MainWindow::readWaiting() {
    m_isReading = true; // one after the other: there is one preview, and one bar that tells what is read
    auto finished = std::make_shared<bool>(false);
    const QStringList taken = std::exchange(m_waiting, {});
    std::vector<std::filesystem::path> files;
    std::transform(taken.begin(), taken.end(), std::back_inserter(files), pathOf);
    const PlateCut cut = plateCut();
    const auto progress = runJob<FilesRead>(
        this, [files, cut](Progress& p) { return readNext(files, p, cut); },
        [this, finished, taken](Result<FilesRead> read) {
            *finished = true;
            m_isReading = false;
            m_notice->done();
            if (!read) { // cancelled: nothing of it is wanted
                m_workspace.tell(read.error());
                importNext();
                return;
            }
            m_waiting += taken.mid(static_cast<qsizetype>(read->count));
            // A batch that has just been made clears the notices when it is shown.
            m_workspace.afterwards(
                [this, shared = std::make_shared<FilesRead>(std::move(*read))] { showRead(std::move(*shared)); });
        });
    QTimer::singleShot(kBusyAfterMillis, this, [this, finished, progress, taken] {
        if (!*finished) {
            const QString what =
                taken.size() == 1 ? QFileInfo(taken.first()).fileName() : tr("%1 files").arg(taken.size());
            m_notice->busy(tr("Reading %1 …").arg(what), [progress] { progress->cancel(); });
        }
    });
}

void MainWindow::showRead(FilesRead read, bool isPasted) {
    QStringList unread;
    for (const Error& error : read.errors) {
        unread << text(error.text());
    }
    if (!read.traces.empty()) {
        showTraceImport(std::move(read.traces), unread);
        return;
    }
    if (read.cells != nullptr) { // the preview says why
        showImport({{}, std::move(read.cells), read.errors.front(), isPasted ? PlateCut{} : plateCut(), isPasted});
        return;
    }
    if (!read.errors.empty()) {
        m_workspace.tell(
            read.errors.size() == 1
                ? unread.first()
                : tr("%1 (%2 further files cannot be read either.)").arg(unread.first()).arg(read.errors.size() - 1),
            true);
    }
    if (!read.plates.empty()) {
        showImport({std::move(read.plates), nullptr, std::nullopt, isPasted ? PlateCut{} : plateCut(), isPasted});
    } else {
        importNext(); // one file that cannot be read does not keep the others out
    }
}

void MainWindow::showTraceImport(std::vector<TraceFile> files, const QStringList& unread) {
    if (m_traceImport == nullptr) {
        m_traceImport = new TraceImportPage(m_stack);
        m_stack->addWidget(m_traceImport);
        connect(m_traceImport, &TraceImportPage::accepted, this, &MainWindow::importPreviewedTraces);
        connect(m_traceImport, &TraceImportPage::rejected, this, &MainWindow::endImport);
    }
    m_traceImport->show(std::move(files), m_workspace.isOpen() ? &m_workspace.batch() : nullptr, unread,
                        static_cast<int>(m_waiting.size()));
    m_stack->setCurrentWidget(m_traceImport);
    m_panel->showSettings(nullptr);
    m_actions->refresh();
}

void MainWindow::importPreviewedTraces() {
    const std::vector<ImportedRun> runs = m_traceImport->runs();
    const TraceRecipe recipe = m_traceImport->recipe();
    const QStringList waiting = m_waiting;
    if (!ensureBatch()) {
        return;
    }
    bool isDone = true;
    if (m_workspace.newest().method.traceRecipe != recipe) {
        Method method = m_workspace.newest().method;
        method.traceRecipe = recipe;
        isDone = m_workspace.apply(setMethod(m_workspace.newest(), method));
    }
    isDone = isDone && m_workspace.apply(importRuns(m_workspace.newest(), runs, m_workspace.document()->now()));
    if (isDone) {
        const Batch& batch = m_workspace.newest();
        const int list = batch.inUse.empty() ? 1 : batch.inUse.rbegin()->first.carrier;
        m_workspace.afterwards([this, list] { m_workspace.showCarrier(list); });
    }
    showPage(isDone ? ChainPage::Data : m_page);
    m_waiting = waiting;
    importNext();
}

void MainWindow::paste() {
    const QString clip = QApplication::clipboard()->text();
    const bool isOnRuns = isShown(m_page) && m_workspace.isOpen() && m_workspace.carrier().kind == CarrierKind::RunList;
    const bool isForAnalytes = m_page == ChainPage::Response, isForRuns = m_page == ChainPage::Layout;
    if (isOnRuns && (isForAnalytes || isForRuns) && m_exchange.pasteList(clip.toStdString(), isForRuns)) {
        return;
    }
    if (isShown(m_page) && page(m_page)->paste(clip)) {
        return;
    }
    takeText(clip);
}

void MainWindow::takeText(const QString& typed) {
    auto read = readPasted(typed.toStdString()); // no file of the kind that the method knows
    if (!read) {
        m_workspace.tell(read.error());
        return;
    }
    showRead(std::move(*read), true);
}

/// How the method has files of plates read.
PlateCut MainWindow::plateCut() const {
    return m_workspace.isOpen() ? cutOf(m_workspace.newest().method.plateRecipe) : PlateCut{};
}

void MainWindow::showImport(ImportOffer offer) {
    importPage()->show(std::move(offer), m_workspace.isOpen() ? &m_workspace.batch() : nullptr,
                       m_workspace.carrierNumber(), m_followsAnother, static_cast<int>(m_waiting.size()));
    m_stack->setCurrentWidget(m_import);
    m_panel->showSettings(nullptr); // those of the page that is not shown
    m_actions->refresh();
}

void MainWindow::importPreviewed() {
    const auto plates = m_import->plates();
    int carrier = m_import->target();
    const QStringList waiting = m_waiting;
    if (!ensureBatch()) {
        return;
    }
    bool isDone = true;
    Method method = m_workspace.newest().method; // the next file of the kind is taken in as this one
    method.plateRecipe = m_import->corrected();
    if (method.plateRecipe != m_workspace.newest().method.plateRecipe) {
        isDone = m_workspace.apply(setMethod(m_workspace.newest(), method));
    }
    for (const std::vector<PlateImport>& reads : plates) {
        const int last = m_workspace.newest().carriers.rbegin()->first;
        isDone = isDone &&
                 m_workspace.apply(importReads(m_workspace.newest(), reads, carrier, m_workspace.document()->now()));
        if (const int added = m_workspace.newest().carriers.rbegin()->first; added > last) {
            m_workspace.afterwards([this, added] { m_workspace.showCarrier(added); });
        }
        carrier = 0; // further plates of the file are new ones
    }
    showPage(isDone ? ChainPage::Data : m_page); // the notice says why not
    m_waiting = waiting;
    m_followsAnother = isDone;
    if (isDone && waiting.isEmpty()) {
        m_exchange.whenComplete();
    }
    importNext();
}

void MainWindow::endImport() {
    const QStringList waiting = m_waiting;
    showPage(m_page);
    m_waiting = waiting;
    importNext();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls() || event->mimeData()->hasText()) {
        event->acceptProposedAction();
    }
}

/// Readings are previewed one after the other; of several files only readings are taken, since one batch is open.
void MainWindow::takeDropped(const QList<QUrl>& urls) {
    QStringList batches;
    QStringList readings;
    for (const QUrl& url : urls) {
        const QString path = url.toLocalFile();
        (path.endsWith(QStringLiteral(".nuvat"), Qt::CaseInsensitive) ? batches : readings) << path;
    }
    if (urls.size() == 1 && readings.size() == 1 &&
        readings.first().endsWith(QStringLiteral(".nuvat-method"), Qt::CaseInsensitive)) {
        const auto method = readMethod(pathOf(readings.first()));
        m_workspace.isOpen() ? m_methodMenu->take(method) : Q_EMIT m_methodMenu->startAsked(method);
        return;
    }
    if (!batches.isEmpty() && urls.size() > 1) {
        m_workspace.tell(tr("%1 files were dropped, and %2 is a batch. Drop a batch alone, or the readings alone.")
                             .arg(urls.size())
                             .arg(QFileInfo(batches.first()).fileName()),
                         true);
        return;
    }
    if (!batches.isEmpty()) {
        openFile(batches.first());
        return;
    }
    std::vector<std::filesystem::path> paths;
    std::transform(readings.begin(), readings.end(), std::back_inserter(paths), pathOf);
    QStringList files;
    for (const auto& file : filesIn(paths)) {
        files << QString::fromStdString(file.string());
    }
    m_waiting = files + m_waiting; // what was dropped before still waits for its turn
    importNext();
}

void MainWindow::importNext() {
    if (m_isReading) {
        return;
    }
    if (m_waiting.isEmpty()) {
        m_followsAnother = false;
    } else {
        readWaiting();
    }
}

void MainWindow::dropEvent(QDropEvent* event) {
    const QMimeData* mime = event->mimeData();
    event->acceptProposedAction();
    if (mime->hasUrls()) {
        takeDropped(mime->urls());
        return;
    }
    takeText(mime->text());
}

void MainWindow::previewText(const std::string& name) {
    if (auto import = demoImport(name)) {
        showImport({{std::move(*import)}, nullptr, std::nullopt, {}, false});
    }
}

} // namespace nuvat
