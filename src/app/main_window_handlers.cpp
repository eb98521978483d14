// What the actions of the window do: files, import, exclusions, report, drops. The frame is in main_window.cpp.
#include "main_window.h"

#include "actions/actions.h"
#include "dialogs/file_dialogs.h"
#include "dialogs/plate_reader.h"
#include "jobs/job.h"
#include "nuvat/report/report_file.h"
#include "nuvat/report/theme.h"
#include "nuvat/workflow/export.h"
#include "panels/page.h"
#include "panels/start_page.h"
#include "session/acquisition.h"
#include "settings/settings.h"
#include "widgets/frame_widgets.h"
#include "widgets/picture_file.h"

#include <algorithm>
#include <QDateTime>
#include <QLocale>

namespace nuvat {

void MainWindow::remember() {
    if (m_workspace.isOpen() && !m_workspace.openBatch().path.empty()) {
        settings::rememberBatch(QString::fromStdString(m_workspace.openBatch().path.string()),
                                text(m_workspace.batch().info.title));
    }
}

void MainWindow::showBatchesToOpen() {
    QList<std::pair<QString, QString>> unnamed;
    for (const UnnamedBatch& one : unnamedBatches()) {
        // One that cannot be read is listed by its file; opening it says what is wrong.
        const QDateTime changed = QDateTime::fromMSecsSinceEpoch(one.changedMillis);
        unnamed.append({QString::fromStdString(one.path.string()),
                        one.title.empty() ? QString::fromStdString(one.path.filename().string())
                                          : text(one.title) + QStringLiteral("   ") +
                                                QLocale().toString(changed, QLocale::ShortFormat)});
    }
    QList<std::pair<QString, QString>> recent = settings::recentBatches();
    recent.removeIf([](const auto& entry) { return isUnnamedPath(pathOf(entry.first)); });
    m_start->setRecent(recent);
    m_start->setUnnamed(unnamed, QString::fromStdString(unnamedFolder().string()));
}

void MainWindow::newEmpty() {
    auto made = newBatch();
    if (!made) {
        m_workspace.tell(made.error());
        return;
    }
    m_workspace.open(std::move(*made));
}

void MainWindow::startDemo(const std::string& name) {
    std::error_code ignored;
    std::filesystem::create_directories(unnamedFolder(), ignored);
    auto made = demoBatch(name, unnamedFolder() / ("demo-" + std::to_string(systemMillis()) + ".nuvat"));
    if (!made) {
        m_workspace.tell(made.error());
        return;
    }
    m_workspace.open(std::move(*made));
}

void MainWindow::record(const QString& instrument) {
    showPage(ChainPage::Data);
    const std::string name = tr("Recorded now").toStdString();
    m_workspace.afterwards([this, instrument, name] { Acquisition::of(m_workspace).record(instrument, name, "31"); });
}

void MainWindow::openFile(const QString& path) {
    if (!path.endsWith(QStringLiteral(".nuvat"), Qt::CaseInsensitive)) {
        importFile(path);
        return;
    }
    openBatch(path);
}

void MainWindow::openBatch(const QString& path) {
    std::error_code ignored;
    if (m_workspace.isOpen() && std::filesystem::equivalent(pathOf(path), m_workspace.openBatch().path, ignored)) {
        m_workspace.close(); // every edit is in the file; its lock is ours
    }
    auto opened = nuvat::openBatch(pathOf(path));
    if (!opened) {
        m_workspace.tell(opened.error());
        return;
    }
    m_workspace.open(std::move(*opened));
}

void MainWindow::askOpen() {
    if (const auto path = m_dialogs.openFile(this, tr("Open a batch"), tr("Nuvat batches (*.nuvat);;All files (*)"))) {
        openBatch(*path);
    }
}

void MainWindow::askSaveAs() {
    const QString suggested =
        m_workspace.openBatch().isNamed
            ? QString::fromStdString(m_workspace.openBatch().path.string())
            : reportFileName(m_workspace.batch(), m_workspace.document()->now(), QStringLiteral(".nuvat"));
    if (const auto path = m_dialogs.saveFile(this, tr("Save the batch as"), suggested, tr("Nuvat batches (*.nuvat)"),
                                             QStringLiteral("nuvat"))) {
        if (m_workspace.saveAs(pathOf(*path))) {
            remember();
            m_workspace.tell(tr("Saved as %1; every further edit is saved there as it is made.").arg(*path), false);
        }
    }
}

void MainWindow::askSaveCopy() {
    const QString suggested =
        reportFileName(m_workspace.batch(), m_workspace.document()->now(), QStringLiteral("-copy.nuvat"));
    if (const auto path = m_dialogs.saveFile(this, tr("Save a copy"), suggested, tr("Nuvat batches (*.nuvat)"),
                                             QStringLiteral("nuvat"))) {
        m_workspace.saveCopy(pathOf(*path));
    }
}

bool MainWindow::ensureBatch() {
    if (!m_workspace.isOpen()) {
        newEmpty();
    }
    return m_workspace.isOpen();
}

/// Stands beside the window; the one that is there comes to the front.
void MainWindow::readPlate() {
    auto* reader = findChild<PlateReader*>(QStringLiteral("plateReader"));
    if (reader == nullptr && ensureBatch()) {
        reader = new PlateReader(m_workspace, this);
    }
    if (reader != nullptr) {
        reader->show();
        reader->raise();
        reader->activateWindow();
    }
}

void MainWindow::askDetails() {
    const BatchInfo& info = m_workspace.batch().info;
    if (const auto typed = nuvat::askDetails(this, {text(info.title), text(info.laboratory), text(info.note)})) {
        m_workspace.apply(setDetails(m_workspace.newest(), typed->title.toStdString(), typed->laboratory.toStdString(),
                                     typed->note.toStdString()));
        remember();
    }
}

int MainWindow::analyteToExclude() const {
    const bool isOneOfSeveral = m_workspace.batch().method.analytes.size() > 1 && m_workspace.batch().hasTraces();
    return isOneOfSeveral ? m_workspace.analyteNumber() : 0;
}

void MainWindow::excludeOrRestore(int analyte) {
    const auto& places = m_workspace.selection().places;
    const bool allOut = std::all_of(places.begin(), places.end(), [&](Place p) {
        return m_workspace.batch().isExcluded(p, analyte) || m_workspace.batch().at(p).role == Role::Empty;
    });
    if (allOut) {
        m_workspace.apply(restorePlaces(m_workspace.newest(), places, analyte));
    } else {
        exclude(places, analyte);
    }
}

void MainWindow::exclude(const std::vector<Place>& places, int analyte) {
    std::vector<Place> wanted;
    for (const Place place : places) {
        if (!m_workspace.batch().isExcluded(place, analyte) && m_workspace.batch().at(place).role != Role::Empty) {
            wanted.push_back(place);
        }
    }
    if (wanted.empty()) {
        return;
    }
    const QString where =
        wanted.size() == 1
            ? tr("%1 (%2)").arg(text(placeName(m_workspace.batch(), wanted.front())),
                                text(shortName(m_workspace.batch(), m_workspace.batch().at(wanted.front()))))
            : text(countOfPlaces(m_workspace.batch(), wanted));
    const QString what =
        analyte == 0 ? where : tr("%1 for %2").arg(where, text(m_workspace.batch().method.analyte(analyte).name));
    if (const auto reason = askReason(this, what)) {
        m_workspace.apply(
            excludePlaces(m_workspace.newest(), wanted, reason->toStdString(), m_workspace.document()->now(), analyte));
    }
}

void MainWindow::addAnalyte() {
    const auto name = askLine(this, tr("Add an analyte"),
                              tr("Its name. It starts with the settings of %1; its levels are typed under Layout.")
                                  .arg(text(m_workspace.analyte().name)),
                              {});
    if (!name) {
        return;
    }
    Method method = m_workspace.newest().method;
    Analyte analyte = m_workspace.analyte();
    analyte.name = name->toStdString();
    // Where there is a reading for each analyte the new one takes the next.
    const int next = static_cast<int>(method.analytes.size()) + 1;
    const auto channels = m_workspace.batch().channels();
    const bool hasOwn = channels.size() >= static_cast<std::size_t>(next);
    analyte.source.rule = ValueRule{hasOwn ? channels[static_cast<std::size_t>(next) - 1] : std::string()};
    method.analytes.push_back(analyte);
    if (m_workspace.apply(setMethod(m_workspace.newest(), method))) {
        m_workspace.afterwards([this, next] { m_workspace.showAnalyte(next); });
    }
}

void MainWindow::stepCarrier(int by) {
    const int bracket = m_workspace.evaluation().bracket;
    if (bracket != 0 && bracket + by > 0) {
        m_workspace.showBracket(bracket + by);
        if (m_workspace.evaluation().bracket != bracket) {
            return;
        }
    }
    std::vector<int> numbers;
    for (const auto& [number, carrier] : m_workspace.batch().carriers) {
        numbers.push_back(number);
    }
    const auto now = std::find(numbers.begin(), numbers.end(), m_workspace.carrierNumber()) - numbers.begin();
    const auto count = static_cast<std::ptrdiff_t>(numbers.size());
    m_workspace.showCarrier(numbers[static_cast<std::size_t>((now + by + count) % count)]);
}

void MainWindow::addCarrier(CarrierKind kind) {
    if (!ensureBatch()) {
        return;
    }
    constexpr int kRuns = 24;
    const Batch& batch = m_workspace.newest();
    const bool isDone = m_workspace.apply(
        kind == CarrierKind::RunList ? addRunList(batch, kRuns)
                                     : nuvat::addCarrier(batch, m_workspace.carrier().kind == kind
                                                                    ? Carrier{kind, "", m_workspace.carrier().rows,
                                                                              m_workspace.carrier().columns}
                                                                    : Carrier{}));
    if (isDone) {
        const int added = m_workspace.newest().carriers.rbegin()->first;
        m_workspace.afterwards([this, added] { m_workspace.showCarrier(added); });
        showPage(kind == CarrierKind::RunList ? ChainPage::Data : ChainPage::Layout);
    }
}

void MainWindow::renameCarrier() {
    const int number = m_workspace.carrierNumber();
    if (const auto name = askLine(this, tr("Name the plate or list"), tr("Its name; empty to go by its number."),
                                  text(m_workspace.carrier().name))) {
        m_workspace.apply(nuvat::renameCarrier(m_workspace.newest(), number, name->toStdString()));
    }
}

void MainWindow::removeAnalyte() {
    // Levels and QCs of the later ones move up with their analyte.
    m_workspace.apply(nuvat::removeAnalyte(m_workspace.newest(), m_workspace.analyteNumber()));
}

void MainWindow::restoreSelected() {
    m_workspace.apply(restorePlaces(m_workspace.newest(), m_workspace.selection().places, analyteToExclude()));
}

void MainWindow::savePdf() {
    const std::int64_t now = m_workspace.document()->now();
    const auto path = m_dialogs.saveFile(this, tr("Save the report as PDF"),
                                         reportFileName(m_workspace.batch(), now, QStringLiteral(".pdf")),
                                         tr("PDF (*.pdf)"), QStringLiteral("pdf"));
    if (!path) {
        return;
    }
    m_workspace.afterwards([this, path] {
        runJob<void>(
            this,
            [file = pathOf(*path), now = m_workspace.snapshot()](Progress&) {
                return Report(*now.batch, *now.evaluation, now.history, now.timeMillis)
                    .writePdf(file, text(now.batch->info.title));
            },
            [this, path](Result<void> written) {
                if (written) {
                    m_workspace.tell(tr("The report was saved as %1.").arg(*path), false);
                } else {
                    m_workspace.tell(written.error());
                }
            });
    });
}

void MainWindow::exportCsv() {
    const auto path = m_dialogs.saveFile(
        this, tr("Export results as CSV"),
        reportFileName(m_workspace.batch(), m_workspace.document()->now(), QStringLiteral("_results.csv")),
        tr("CSV (*.csv)"), QStringLiteral("csv"));
    if (!path) {
        return;
    }
    m_workspace.afterwards([this, path] {
        if (const auto written =
                writeText(pathOf(*path), resultsCsv(m_workspace.batch(), m_workspace.wholeEvaluation()));
            !written) {
            m_workspace.tell(written.error());
        } else {
            m_workspace.tell(tr("The results were exported as %1, in full precision.").arg(*path), false);
        }
    });
}

} // namespace nuvat
