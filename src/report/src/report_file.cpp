#include "nuvat/report/report_file.h"

#include "nuvat/batch/working.h"
#include "nuvat/report/calibration_figure.h"
#include "report_blocks.h"

#include <algorithm>
#include <QDateTime>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QSaveFile>

namespace nuvat {

namespace {

void drawFooter(QPainter& painter, const QString& left, int page, int pages) {
    const QRectF area(kMargin, kPageHeight - kBottom + 16 * kUnit, kPageWidth - 2 * kMargin, 14 * kUnit);
    painter.setPen(QPen(lightTheme().line, 0.5 * kUnit));
    painter.drawLine(area.topLeft() - QPointF(0, 4 * kUnit), area.topRight() - QPointF(0, 4 * kUnit));
    painter.setFont(reportFont(kSmall));
    painter.setPen(lightTheme().mute);
    painter.drawText(area, Qt::AlignLeft | Qt::AlignVCenter, left);
    painter.drawText(area, Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("%1 of %2").arg(page + 1).arg(pages));
}

} // namespace

const std::vector<ReportBlock>& reportBlocks() {
    static const std::vector<ReportBlock> blocks = [] {
        std::vector<ReportBlock> out;
        for (const BlockEntry& entry : blockEntries()) {
            if (entry.isListed) {
                out.push_back(entry.block);
            }
        }
        return out;
    }();
    return blocks;
}

bool hasBlock(const Method& method, const std::string& key) {
    return key == "heading" || method.reportBlocks.empty() ||
           std::find(method.reportBlocks.begin(), method.reportBlocks.end(), key) != method.reportBlocks.end();
}

Method withBlock(Method method, const std::string& key, bool isOn) {
    std::vector<std::string> on;
    bool isAll = true;
    for (const ReportBlock& block : reportBlocks()) {
        const bool stays = block.key == "heading" || (block.key == key ? isOn : hasBlock(method, block.key));
        isAll = isAll && stays;
        if (stays) {
            on.push_back(block.key);
        }
    }
    method.reportBlocks = isAll ? std::vector<std::string>{} : on;
    return method;
}

struct Report::Page {
    std::vector<Draw> draws;
};

Report::Report(const Batch& batch, const Evaluation& evaluation, const std::vector<HistoryLine>& history,
               std::int64_t printedMillis) {
    loadFonts();
    const auto contentOf = [&](const AnalyteEvaluation& analyte) {
        return Content{batch, evaluation, analyte, history, printedMillis, text(analyteOf(batch, analyte).unit)};
    };
    Pages pages;
    const auto& entries = blockEntries();
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (!entries[i].isOfAnalyte) {
            if (hasBlock(batch.method, entries[i].block.key)) {
                entries[i].addTo(pages, contentOf(evaluation.analytes.front()));
            }
            continue;
        }
        // The run of blocks that every analyte has, analyte by analyte.
        const auto end = std::find_if(entries.begin() + static_cast<std::ptrdiff_t>(i), entries.end(),
                                      [](const BlockEntry& e) { return !e.isOfAnalyte; });
        const auto last = static_cast<std::size_t>(end - entries.begin());
        for (const AnalyteEvaluation& analyte : evaluation.analytes) {
            if (evaluation.analytes.size() > 1) {
                pages.title(text(curveName(batch, analyte)), 6 * kRow);
            }
            for (std::size_t k = i; k < last; ++k) {
                if (hasBlock(batch.method, entries[k].block.key)) {
                    entries[k].addTo(pages, contentOf(analyte));
                }
            }
        }
        i = last - 1;
    }
    auto laidOut = pages.take();
    const QString footer = QStringLiteral("Nuvat · %1 · batch %2 · printed %3")
                               .arg(text(batch.info.title), text(batch.info.uid), timeText(printedMillis));
    const int count = static_cast<int>(laidOut.size());
    for (int i = 0; i < count; ++i) {
        auto& draws = laidOut[static_cast<std::size_t>(i)];
        draws.emplace_back([=](QPainter& painter) { drawFooter(painter, footer, i, count); });
        m_pages.push_back({std::move(draws)});
    }
}

Report::~Report() = default;
Report::Report(Report&&) noexcept = default;
Report& Report::operator=(Report&&) noexcept = default;
int Report::pageCount() const {
    return static_cast<int>(m_pages.size());
}
QSizeF Report::pageSize() {
    return {kPageWidth / kUnit, kPageHeight / kUnit};
}

void Report::paint(QPainter& painter, int page, const QRectF& target) const {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::TextAntialiasing);
    painter.translate(target.topLeft());
    painter.scale(target.width() / kPageWidth, target.height() / kPageHeight);
    for (const Draw& draw : m_pages.at(static_cast<std::size_t>(page)).draws) {
        painter.save();
        draw(painter);
        painter.restore();
    }
    painter.restore();
}

Result<void> Report::writePdf(const std::filesystem::path& path, const QString& title) const {
    QSaveFile file(QString::fromStdString(path.string()));
    const auto cannot = [&] {
        return fail("report.cannot-write",
                    path.string() + " cannot be written (" + file.errorString().toStdString() + ").",
                    "Check that the disk has room and that you may write there, or choose another place.");
    };
    if (!file.open(QIODevice::WriteOnly)) {
        return cannot();
    }
    {
        QPdfWriter writer(&file);
        writer.setTitle(title);
        writer.setCreator(QStringLiteral("Nuvat"));
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageMargins(QMarginsF(0, 0, 0, 0));
        writer.setResolution(288);
        QPainter painter(&writer);
        if (!painter.isActive()) {
            return cannot();
        }
        for (int page = 0; page < pageCount(); ++page) {
            if (page > 0) {
                writer.newPage();
            }
            paint(painter, page, QRectF(0, 0, writer.width(), writer.height()));
        }
    }
    if (!file.commit()) {
        return cannot();
    }
    return {};
}

Result<void> writeReportPdf(const Document& document, const std::filesystem::path& path, std::int64_t printedMillis) {
    std::unique_ptr<QGuiApplication> application;
    if (QCoreApplication::instance() == nullptr) {
        qputenv("QT_QPA_PLATFORM", "offscreen");
        static int argc = 1;
        static char name[] = "nuvat";
        static char* argv[] = {name, nullptr};
        application = std::make_unique<QGuiApplication>(argc, argv);
    }
    const Evaluation evaluation = evaluate(document.batch());
    const Report report(document.batch(), evaluation, document.history(), printedMillis);
    return report.writePdf(path, text(document.batch().info.title));
}

QString reportFileName(const Batch& batch, std::int64_t millis, const QString& ending) {
    QString name;
    for (const QChar c : text(batch.info.title).toLower()) {
        if (c.isLetterOrNumber()) {
            name += c;
        } else if (!name.isEmpty() && !name.endsWith(u'-')) {
            name += u'-';
        }
    }
    while (name.endsWith(u'-')) {
        name.chop(1);
    }
    return QDateTime::fromMSecsSinceEpoch(millis).toString(QStringLiteral("yyyy-MM-dd")) + QStringLiteral("_") +
           (name.isEmpty() ? QStringLiteral("batch") : name) + ending;
}

} // namespace nuvat
