#pragma once

#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/error.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <QPainter>
#include <QString>
#include <vector>

class QPagedPaintDevice;

namespace nuvat {

/// A way in which a block can be printed besides the usual one.
struct BlockOption {
    std::string key;   ///< stable, kept in the method after the block's own: "figure:tall"
    const char* title; ///< as shown
};
/// A part of the report that can be left out.
struct ReportBlock {
    std::string key;                    ///< stable, kept in the method
    const char* title;                  ///< as shown
    std::vector<BlockOption> options{}; ///< none, or two and more of which the first, with an empty key, is the usual
};
/// All blocks in their usual order.
const std::vector<ReportBlock>& reportBlocks();
/// Among the keys of a method's blocks: what follows begins a new page.
inline constexpr const char* kPageBreak = "page-break";
/// The block that an entry of blockKeys is, and the option it is printed with, empty for the usual.
std::string blockOf(const std::string& entry);
std::string optionOf(const std::string& entry);
/// What goes into the report of a method, in its order, page breaks among them.
std::vector<std::string> blockKeys(const Method& method);
/// The method with these blocks in this order.
Method withBlocks(Method method, std::vector<std::string> keys);
/// The method with a block that is in its report printed with an option.
Method withOption(Method method, const std::string& key, const std::string& option);
/// Whether the batch's method has the block in its report.
bool hasBlock(const Method& method, const std::string& key);
/// The method with a block switched on or off. The heading always stays.
Method withBlock(Method method, const std::string& key, bool isOn);

/// The report of a batch, laid out in pages. Immutable; painting may happen on any thread.
class Report {
public:
    /// @param printedMillis time that is printed as that of the report
    Report(const Batch& batch, const Evaluation& evaluation, const std::vector<HistoryLine>& history,
           std::int64_t printedMillis);
    ~Report();
    Report(Report&&) noexcept;
    Report& operator=(Report&&) noexcept;

    int pageCount() const;
    /// Width and height of a page (A4) in points.
    static QSizeF pageSize();
    /// Paints a page into `target`; `page` counts from 0.
    void paint(QPainter& painter, int page, const QRectF& target) const;
    /// Paints all pages onto a printer or a PDF, whose pages are A4 without margins. @return whether it took them
    bool paintAll(QPagedPaintDevice& device) const;
    /// Writes all pages as PDF, complete or not at all. @return report.cannot-write
    Result<void> writePdf(const std::filesystem::path& path, const QString& title) const;

private:
    struct Page;
    void addMargins(const Batch& batch, std::int64_t printedMillis,
                    std::vector<std::vector<std::function<void(QPainter&)>>> laidOut);
    std::vector<Page> m_pages;
};

/// The report of a document as PDF; makes a QGuiApplication without a display when there is none (command line).
Result<void> writeReportPdf(const Document& document, const std::filesystem::path& path, std::int64_t printedMillis);

/// File name that is offered, by the pattern of the method: "2026-09-14_patulin-in-juice-week-38.pdf".
QString reportFileName(const Batch& batch, std::int64_t millis, const QString& ending);

} // namespace nuvat
