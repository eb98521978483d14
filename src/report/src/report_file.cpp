#include "nuvat/report/report_file.h"

#include "nuvat/batch/working.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/workflow/fields.h"
#include "report_blocks.h"

#include <algorithm>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QSaveFile>
#include <utility>

namespace nuvat {

namespace {

/// "left | right"
void drawSides(QPainter& painter, const QRectF& area, const QString& line) {
    const auto bar = line.indexOf(u'|');
    painter.setFont(reportFont(kSmall));
    painter.setPen(lightTheme().mute);
    painter.drawText(area, Qt::AlignLeft | Qt::AlignVCenter, (bar < 0 ? line : line.left(bar)).trimmed());
    painter.drawText(area, Qt::AlignRight | Qt::AlignVCenter, bar < 0 ? QString() : line.mid(bar + 1).trimmed());
}

void drawTop(QPainter& painter, const QString& line) {
    if (!line.isEmpty()) {
        drawSides(painter, {kMargin, kTop - 24 * kUnit, kPageWidth - 2 * kMargin, 14 * kUnit}, line);
    }
}

void drawFoot(QPainter& painter, const QString& line) {
    const QRectF area(kMargin, kPageHeight - kBottom + 16 * kUnit, kPageWidth - 2 * kMargin, 14 * kUnit);
    painter.setPen(QPen(lightTheme().line, 0.5 * kUnit));
    painter.drawLine(area.topLeft() - QPointF(0, 4 * kUnit), area.topRight() - QPointF(0, 4 * kUnit));
    drawSides(painter, area, line);
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

std::string blockOf(const std::string& entry) {
    return entry.substr(0, entry.find(':'));
}

std::string optionOf(const std::string& entry) {
    const auto colon = entry.find(':');
    return colon == std::string::npos ? std::string() : entry.substr(colon + 1);
}

std::vector<std::string> blockKeys(const Method& method) {
    std::vector<std::string> out = method.reportBlocks;
    if (out.empty()) {
        for (const BlockEntry& entry : blockEntries()) {
            if (entry.isListed && !entry.isExtra) {
                out.push_back(entry.block.key);
            }
        }
    }
    if (std::ranges::find(out, "heading") == out.end()) {
        out.insert(out.begin(), "heading");
    }
    return out;
}

bool hasBlock(const Method& method, const std::string& key) {
    const auto keys = blockKeys(method);
    return std::ranges::find(keys, key, blockOf) != keys.end();
}

Method withOption(Method method, const std::string& key, const std::string& option) {
    std::vector<std::string> keys = blockKeys(method);
    std::ranges::replace_if(
        keys, [&](const std::string& entry) { return blockOf(entry) == key; },
        option.empty() ? key : key + ":" + option);
    return withBlocks(std::move(method), std::move(keys));
}

Method withBlocks(Method method, std::vector<std::string> keys) {
    method.reportBlocks.clear();
    const bool isUsual = keys == blockKeys(method);
    method.reportBlocks = isUsual ? std::vector<std::string>{} : std::move(keys);
    return method;
}

Method withBlock(Method method, const std::string& key, bool isOn) {
    std::vector<std::string> keys = blockKeys(method);
    const auto found = std::ranges::find(keys, key, blockOf);
    if (key == "heading" || isOn == (found != keys.end())) {
        return method;
    }
    if (!isOn) {
        keys.erase(found);
        return withBlocks(std::move(method), std::move(keys));
    }
    // Where it usually stands: before the first block that usually comes after it.
    const auto& blocks = reportBlocks();
    const auto after = [&](const std::string& one) {
        return std::ranges::find(blocks, blockOf(one), &ReportBlock::key) >
               std::ranges::find(blocks, key, &ReportBlock::key);
    };
    keys.insert(std::ranges::find_if(keys, [&](const std::string& one) { return one != kPageBreak && after(one); }),
                key);
    return withBlocks(std::move(method), std::move(keys));
}

struct Report::Page {
    std::vector<Draw> draws;
};

Report::Report(const Batch& batch, const Evaluation& evaluation, const std::vector<HistoryLine>& history,
               std::int64_t printedMillis) {
    loadFonts();
    const auto contentOf = [&](const AnalyteEvaluation& analyte, const std::string& option) {
        return Content{batch, evaluation, analyte, history, printedMillis, text(analyteOf(batch, analyte).unit),
                       option};
    };
    struct Asked {
        const BlockEntry* entry;
        std::string option;
    };
    Pages pages;
    const auto run = [&](const std::vector<Asked>& blocks) {
        for (const AnalyteEvaluation& analyte : evaluation.analytes) {
            if (analyte.isOnlyInternal) { // it stands with those it serves
                continue;
            }
            if (evaluation.analytes.size() > 1) {
                pages.title(text(curveName(batch, analyte)), 6 * kRow);
            }
            for (const Asked& asked : blocks) {
                asked.entry->addTo(pages, contentOf(analyte, asked.option));
            }
        }
    };
    std::vector<Asked> ofAnalytes; // a stretch of blocks that every analyte has, analyte by analyte
    const auto finish = [&] {
        if (!ofAnalytes.empty()) {
            run(std::exchange(ofAnalytes, {}));
        }
    };
    for (const std::string& key : blockKeys(batch.method)) {
        if (key == kPageBreak) {
            finish();
            pages.turn();
        }
        for (const BlockEntry& entry : blockEntries()) {
            if (entry.block.key != blockOf(key)) {
                continue;
            }
            if (entry.isOfAnalyte) {
                ofAnalytes.push_back({&entry, optionOf(key)});
            } else {
                finish();
                entry.addTo(pages, contentOf(evaluation.analytes.front(), optionOf(key)));
            }
        }
    }
    finish();
    addMargins(batch, printedMillis, pages.take());
}

/// Top and foot of every page, as the method says.
void Report::addMargins(const Batch& batch, std::int64_t printedMillis, std::vector<std::vector<Draw>> laidOut) {
    const std::string foot = batch.method.reportFoot.empty()
                                 ? "Nuvat · {batch} · batch {uid} · printed {time} | {page} of {pages}"
                                 : batch.method.reportFoot;
    const int count = static_cast<int>(laidOut.size());
    for (int i = 0; i < count; ++i) {
        auto& draws = laidOut[static_cast<std::size_t>(i)];
        const auto filled = [&](const std::string& pattern) {
            return shown(fillFields(pattern, {batch, printedMillis, i + 1, count}));
        };
        draws.emplace_back([line = filled(batch.method.reportTop)](QPainter& painter) { drawTop(painter, line); });
        draws.emplace_back([line = filled(foot)](QPainter& painter) { drawFoot(painter, line); });
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

bool Report::paintAll(QPagedPaintDevice& device) const {
    QPainter painter(&device);
    for (int page = 0; painter.isActive() && page < pageCount(); ++page) {
        if (page > 0 && !device.newPage()) {
            return false;
        }
        paint(painter, page, QRectF(0, 0, device.width(), device.height()));
    }
    return painter.isActive() && painter.end();
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
        if (!paintAll(writer)) {
            return cannot();
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
    return text(exportFileName(batch, millis, {}, ending.toStdString()));
}

} // namespace nuvat
