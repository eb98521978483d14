#include "dialogs/exchange.h"

#include "jobs/job.h"
#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/report/report_file.h"
#include "nuvat/store/kept_curve.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/fields.h"
#include "nuvat/workflow/layout_file.h"
#include "nuvat/workflow/sample_file.h"
#include "panels/samples_card.h"
#include "widgets/picture_file.h"

#include <fstream>
#include <QApplication>
#include <QClipboard>
#include <QFileInfo>
#include <QPageSize>
#include <QPrinter>

namespace nuvat {

namespace {
constexpr const char* kCurveFilter = "Kept curves (*.nuvat-curve);;All files (*)";
constexpr const char* kCsvFilter = "CSV (*.csv);;All files (*)";
/// Each in a file named by the method's pattern.
Result<void> writeComplete(const Snapshot& now, const std::filesystem::path& folder) {
    for (const std::string& kind : now.batch->method.whenComplete) {
        const auto path = folder / exportFileName(*now.batch, now.timeMillis, folder, "." + kind);
        auto written = kind == "csv"    ? writeText(path, resultsCsv(*now.batch, *now.evaluation))
                       : kind == "xlsx" ? writeXlsx(*now.batch, *now.evaluation, path)
                                        : Report(*now.batch, *now.evaluation, now.history, now.timeMillis)
                                              .writePdf(path, text(now.batch->info.title));
        if (!written) {
            return written;
        }
    }
    return {};
}

} // namespace

QString Exchange::fileName(const QString& ending) const {
    return reportFileName(m_workspace.batch(), m_workspace.document()->now(), ending);
}

void Exchange::tellOf(const Result<void>& written, const QString& sentence) {
    if (written) {
        m_workspace.tell(sentence, false);
    } else {
        m_workspace.tell(written.error());
    }
}

void Exchange::exportLayout() {
    const auto path =
        m_dialogs.saveFile(m_parent, QObject::tr("Export the layout"), fileName(QStringLiteral("_layout.csv")),
                           QObject::tr(kCsvFilter), QStringLiteral("csv"));
    if (path) {
        tellOf(writeText(pathOf(*path), layoutCsv(m_workspace.newest())),
               QObject::tr("The layout was exported as %1.").arg(*path));
    }
}

void Exchange::importLayout() {
    const auto path = m_dialogs.openFile(m_parent, QObject::tr("Take a layout from a file"), QObject::tr(kCsvFilter));
    if (!path) {
        return;
    }
    std::ifstream stream(pathOf(*path), std::ios::binary);
    m_workspace.apply(readLayoutCsv(m_workspace.newest(), stream, QFileInfo(*path).fileName().toStdString()));
}

void Exchange::importSamples() {
    const auto path = m_dialogs.openFile(m_parent, QObject::tr("Take sample names from a file"),
                                         QObject::tr("Lists (*.csv *.tsv *.txt *.xlsx *.ods);;All files (*)"));
    if (!path) {
        return;
    }
    runJob<std::string>(
        m_parent, [file = pathOf(*path)](Progress& progress) { return readSampleNames(file, progress); },
        [this](Result<std::string> names) {
            if (!names) {
                m_workspace.tell(names.error());
                return;
            }
            nameSamples(m_workspace, *names);
        });
}

/// The name of the file is the name of the curve; how long it is valid is asked with it.
void Exchange::keepCurve() {
    const auto days = askLine(m_parent, QObject::tr("Keep this curve"),
                              QObject::tr("Valid for how many days (0: without end)"), QStringLiteral("30"));
    if (!days) {
        return;
    }
    const auto valid = parseTyped(days->toStdString());
    if (!valid || *valid < 0) {
        m_workspace.tell(QObject::tr("\"%1\" is no number of days; the curve was not kept.").arg(*days), true);
        return;
    }
    const auto path =
        m_dialogs.saveFile(m_parent, QObject::tr("Keep this curve as"), fileName(QStringLiteral(".nuvat-curve")),
                           QObject::tr(kCurveFilter), QStringLiteral("nuvat-curve"));
    if (!path) {
        return;
    }
    const auto kept = nuvat::keepCurve(
        m_workspace.batch(), m_workspace.evaluation(), QFileInfo(*path).completeBaseName().toStdString(),
        *valid > 0 ? std::optional(*valid) : std::nullopt, m_workspace.document()->now());
    if (!kept) {
        m_workspace.tell(kept.error());
        return;
    }
    tellOf(writeKeptCurve(pathOf(*path), *kept),
           QObject::tr("The curve was kept as %1, with all it was fitted to.").arg(*path));
}

std::optional<KeptCurve> Exchange::askKeptCurve() {
    const auto path = m_dialogs.openFile(m_parent, QObject::tr("Open a kept curve"), QObject::tr(kCurveFilter));
    if (!path) {
        return std::nullopt;
    }
    auto kept = readKeptCurve(pathOf(*path));
    if (!kept) {
        m_workspace.tell(kept.error());
        return std::nullopt;
    }
    return std::move(*kept);
}

void Exchange::useKeptCurve() {
    if (const auto kept = askKeptCurve()) {
        m_workspace.apply(nuvat::useKeptCurve(m_workspace.newest(), m_workspace.analyteNumber(), *kept));
    }
}

void Exchange::useOwnStandards() {
    Method method = m_workspace.newest().method;
    method.analyte(m_workspace.analyteNumber()).source.curve = CurveOf::Batch;
    m_workspace.apply(setMethod(m_workspace.newest(), method));
}

void Exchange::printReport() {
    auto printer = std::make_shared<QPrinter>(QPrinter::HighResolution);
    printer->setPageSize(QPageSize(QPageSize::A4));
    printer->setFullPage(true);
    printer->setDocName(fileName(QString()));
    if (!m_dialogs.choosePrinter(m_parent, *printer)) {
        return;
    }
    m_workspace.afterwards([this, printer] {
        runJob<void>(
            m_parent,
            [printer, now = m_workspace.snapshot()](Progress&) -> Result<void> {
                const Report report(*now.batch, *now.evaluation, now.history, now.timeMillis);
                return report.paintAll(*printer) ? Result<void>{}
                                                 : fail("report.not-printed", "The printer did not take the report.",
                                                        "Check that it is there, or save the report as PDF.");
            },
            [this](Result<void> printed) { tellOf(printed, QObject::tr("The report was sent to the printer.")); });
    });
}

void Exchange::exportWorkbook() {
    const auto path =
        m_dialogs.saveFile(m_parent, QObject::tr("Export a workbook"), fileName(QStringLiteral("_results.xlsx")),
                           QObject::tr("Workbooks (*.xlsx)"), QStringLiteral("xlsx"));
    if (path) {
        m_workspace.afterwards([this, path] {
            tellOf(writeXlsx(m_workspace.batch(), m_workspace.wholeEvaluation(), pathOf(*path)),
                   QObject::tr("The workbook was saved as %1, with numbers in full.").arg(*path));
        });
    }
}

void Exchange::whenComplete() {
    if (m_workspace.newest().method.whenComplete.empty()) {
        return;
    }
    const std::filesystem::path folder = m_workspace.openBatch().path.parent_path();
    if (!m_workspace.openBatch().isNamed || folder.empty()) {
        m_workspace.tell(QObject::tr("Save the batch under a name first: then results go beside it by themselves."),
                         false);
        return;
    }
    m_workspace.afterwards([this, folder] {
        runJob<void>(
            m_parent, [folder, now = m_workspace.snapshot()](Progress&) { return writeComplete(now, folder); },
            [this, folder](Result<void> written) {
                tellOf(written, QObject::tr("The reading is in; its results were saved in %1.")
                                    .arg(QString::fromStdString(folder.string())));
            });
    });
}

void Exchange::savePicture(QWidget& picture) {
    const auto path = m_dialogs.saveFile(
        m_parent, QObject::tr("Save the picture"), fileName(QStringLiteral("_picture.svg")),
        QObject::tr("Picture of lines (*.svg);;Page (*.pdf);;Picture of pixels (*.png)"), QStringLiteral("svg"));
    if (path) {
        tellOf(nuvat::savePicture(picture, text(m_workspace.batch().info.title), pathOf(*path)),
               QObject::tr("The picture was saved as %1.").arg(*path));
    }
}

void Exchange::copyPicture(QWidget& picture) {
    constexpr int kFiner = 2; // for documents that are printed
    QApplication::clipboard()->setImage(pictureOf(picture, kFiner));
    m_workspace.tell(QObject::tr("The picture was copied; paste it into a document."), false);
}

} // namespace nuvat
