#include "panels/report_page.h"

#include "nuvat/report/calibration_figure.h"
#include "nuvat/workflow/fields.h"
#include "theme/style.h"
#include "widgets/block_list.h"
#include "widgets/controls.h"
#include "widgets/live_form.h"

#include <algorithm>
#include <cmath>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

/// Pages of a report as sheets: the first large, the others beside it, or one below the other when the width is small.
class PagesView : public QWidget {
public:
    using QWidget::QWidget;

    void setReport(std::shared_ptr<const Report> report) {
        if (report == m_report) {
            return;
        }
        m_report = std::move(report);
        m_cache.clear();
        layOut();
        update();
    }
    int pageCount() const { return m_report ? m_report->pageCount() : 0; }

protected:
    void resizeEvent(QResizeEvent*) override { layOut(); }

    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        const Theme& t = theme();
        for (int page = 0; page < pageCount(); ++page) {
            const QRectF sheet = m_sheets.at(static_cast<std::size_t>(page));
            if (!sheet.intersects(QRectF(visibleRegion().boundingRect()))) {
                continue;
            }
            painter.fillRect(sheet.adjusted(1, 2, 2, 3), QColor(0, 0, 0, 26));
            painter.drawPixmap(sheet.topLeft(), pixmap(page, sheet.size()));
            painter.setPen(QPen(t.line, 1));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(sheet);
        }
        if (pageCount() == 0) {
            painter.setPen(t.mute);
            painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                             QObject::tr("The report stands here as soon as there is a curve and a sample."));
        }
    }

private:
    void layOut() {
        m_sheets.clear();
        m_cache.clear();
        const double ratio = Report::pageSize().height() / Report::pageSize().width();
        const double w = std::min(width() - 28.0, 620.0);
        double y = 12;
        for (int page = 0; page < pageCount(); ++page) {
            m_sheets.push_back(QRectF(std::floor((width() - w) / 2), y, std::floor(w), std::floor(w * ratio)));
            y += std::floor(w * ratio) + 14;
        }
        setMinimumHeight(static_cast<int>(y));
    }

    QPixmap pixmap(int page, QSizeF size) {
        auto& cached = m_cache[page];
        if (cached.isNull()) {
            const double scale = devicePixelRatioF();
            cached = QPixmap((size * scale).toSize());
            cached.setDevicePixelRatio(scale);
            cached.fill(Qt::white);
            QPainter painter(&cached);
            m_report->paint(painter, page, QRectF(QPointF(0, 0), size));
        }
        return cached;
    }

    std::shared_ptr<const Report> m_report;
    std::vector<QRectF> m_sheets;
    std::map<int, QPixmap> m_cache;
};

ReportPage::ReportPage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    auto* top = new QHBoxLayout;
    top->setSpacing(8);
    top->addWidget(makeLabel(tr("Paper A4; a row of a table is never cut, headings are repeated."), "mute", this));
    top->addStretch();
    auto* csv = makeButton(tr("Results as CSV…"), "normal", QStringLiteral("reportCsv"), this);
    setPicture(csv, QStringLiteral("file-spreadsheet"));
    auto* pdf = makeButton(tr("Save PDF…"), "primary", QStringLiteral("reportPdf"), this);
    setPicture(pdf, QStringLiteral("file-type-pdf"));
    connect(csv, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("results.export")); });
    connect(pdf, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("report.pdf")); });
    top->addWidget(csv);
    top->addWidget(pdf);
    outer->addLayout(top);

    auto* middle = new QHBoxLayout;
    middle->setSpacing(12);
    auto* left = new QVBoxLayout;
    left->setSpacing(frame::kGap);
    left->addWidget(makeBlocks(), 1);
    left->addWidget(makeMargins());
    middle->addLayout(left);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setObjectName(QStringLiteral("reportScroll"));
    scroll->setStyleSheet(
        QStringLiteral("#reportScroll { background: %1; border-radius: 8px; }").arg(theme().field.name()));
    scroll->setAccessibleName(tr("Preview of the report"));
    m_pages = new PagesView(scroll);
    scroll->setWidget(m_pages);
    middle->addWidget(scroll, 1);
    outer->addLayout(middle, 1);
    connect(&workspace.report(), &ReportLayout::changed, this, [this] {
        if (isVisible()) {
            showPages();
        } else {
            m_pages->setReport(nullptr); // nobody keeps pages that are of yesterday
        }
    });
}

namespace {
constexpr int kSide = 282;
}

QWidget* ReportPage::makeBlocks() {
    auto* card = new Card(tr("What goes in"), this);
    card->setFixedWidth(kSide);
    auto* addBreak = makeButton(tr("Page break"), "tool", QStringLiteral("addPageBreak"), card);
    card->titleRow()->addWidget(addBreak);
    connect(addBreak, &QPushButton::clicked, this, [this] {
        change(
            [](Method& method) {
                auto keys = blockKeys(method);
                keys.emplace_back(kPageBreak);
                method = withBlocks(method, std::move(keys));
            },
            "Page break in the report");
    });
    auto* scroll = new QScrollArea(card);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_blocks = new BlockList(scroll);
    auto* inside = new QWidget(scroll);
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(0, 0, 6, 0);
    column->addWidget(m_blocks);
    column->addStretch();
    scroll->setWidget(inside);
    card->body()->addWidget(scroll, 1);
    connect(m_blocks, &BlockList::moved, this, &ReportPage::moveBlock);
    connect(m_blocks, &BlockList::switched, this, &ReportPage::switchBlock);
    connect(m_blocks, &BlockList::chosen, this, [this](std::size_t index, const std::string& option) {
        const std::string key = m_blocks->rows().at(index).key;
        change([&](Method& method) { method = withOption(method, key, option); },
               "How a block of the report is printed");
    });
    return card;
}

TextField* ReportPage::field(QGridLayout* grid, const char* name, const QString& title, std::string Method::*member) {
    auto* line = new TextField(this);
    line->setObjectName(QString::fromLatin1(name));
    line->setAccessibleName(title);
    const int row = grid->rowCount();
    grid->addWidget(makeLabel(title, "mute", this), row, 0);
    grid->addWidget(line, row, 1);
    line->takeText = [this, member](const QString& typed) {
        return change([&](Method& method) { method.*member = typed.toStdString(); }, {});
    };
    connect(&m_workspace, &Workspace::aboutToReplace, line, &TextField::commit);
    m_fields.emplace_back(line, member);
    return line;
}

namespace {

QString listOfFields(const std::vector<FieldName>& fields) {
    QString out = ReportPage::tr("Fields:");
    for (const FieldName& one : fields) {
        out += QStringLiteral("\n{%1}  %2").arg(QString::fromUtf8(one.name), QString::fromUtf8(one.meaning));
    }
    return out;
}

} // namespace

QWidget* ReportPage::makeMargins() {
    auto* card = new Card(tr("Every page, and the files"), this);
    card->setFixedWidth(kSide);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    TextField* top = field(grid, "reportTop", tr("Top"), &Method::reportTop);
    TextField* foot = field(grid, "reportFoot", tr("Foot"), &Method::reportFoot);
    TextField* name = field(grid, "fileName", tr("Name"), &Method::fileName);
    top->setPlaceholderText(QStringLiteral("{laboratory} | {method}"));
    foot->setPlaceholderText(tr("the usual"));
    name->setPlaceholderText(QStringLiteral("{date}_{batch}"));
    top->setToolTip(listOfFields(pageFields()) + tr("\nWhat stands after | goes to the right."));
    foot->setToolTip(top->toolTip());
    name->setToolTip(listOfFields(fileFields()));
    card->body()->addLayout(grid);
    m_example = makeLabel({}, "small", card);
    m_example->setObjectName(QStringLiteral("fileNameExample"));
    card->body()->addWidget(m_example);
    card->body()->addWidget(makeLabel(tr("When a reading came in, save"), "mute", card));
    auto* row = new QHBoxLayout;
    for (const auto& [key, title] :
         {std::pair<const char*, QString>{"pdf", tr("PDF")}, {"xlsx", tr("XLSX")}, {"csv", tr("CSV")}}) {
        auto* onOff = new Switch(card);
        onOff->setObjectName(QStringLiteral("whenComplete_") + QString::fromLatin1(key));
        onOff->setAccessibleName(tr("Save the results as %1 when a reading came in").arg(title));
        row->addWidget(onOff);
        row->addWidget(makeLabel(title, "value", card));
        row->addStretch();
        m_whenComplete.emplace_back(onOff, key);
        connect(onOff, &QAbstractButton::clicked, this, [this, one = std::string(key)](bool isOn) {
            change(
                [&](Method& method) {
                    std::erase(method.whenComplete, one);
                    if (isOn) {
                        method.whenComplete.push_back(one);
                    }
                },
                {});
        });
    }
    card->body()->addLayout(row);
    return card;
}

bool ReportPage::change(const std::function<void(Method&)>& edit, const std::string& label) {
    Method method = m_workspace.newest().method;
    edit(method);
    return m_workspace.apply(setMethod(m_workspace.newest(), method, label));
}

void ReportPage::moveBlock(std::size_t from, std::size_t to) {
    change(
        [&](Method& method) {
            auto keys = blockKeys(method);
            if (from < keys.size() && to < keys.size()) {
                const std::string moved = keys[from];
                keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(from));
                keys.insert(keys.begin() + static_cast<std::ptrdiff_t>(to), moved);
            }
            method = withBlocks(method, std::move(keys));
        },
        "Order of the blocks of the report");
}

void ReportPage::switchBlock(std::size_t index, bool isIn) {
    const BlockList::Row row = m_blocks->rows().at(index);
    change(
        [&](Method& method) {
            if (row.key != kPageBreak) {
                method = withBlock(method, row.key, isIn);
                return;
            }
            auto keys = blockKeys(method);
            keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(index));
            method = withBlocks(method, std::move(keys));
        },
        std::string("Report ") + (isIn ? "with " : "without ") + row.title.toStdString());
}

void ReportPage::refreshBlocks() {
    const Method& method = m_workspace.batch().method;
    std::vector<BlockList::Row> rows;
    for (const std::string& entry : blockKeys(method)) {
        const auto found = std::ranges::find(reportBlocks(), blockOf(entry), &ReportBlock::key);
        rows.push_back({blockOf(entry),
                        found == reportBlocks().end() ? tr("page break") : QString::fromUtf8(found->title), true,
                        optionOf(entry)});
    }
    for (const ReportBlock& block : reportBlocks()) {
        if (!hasBlock(method, block.key)) {
            rows.push_back({block.key, QString::fromUtf8(block.title), false, {}});
        }
    }
    m_blocks->setRows(std::move(rows));
}

void ReportPage::refreshMargins() {
    const Method& method = m_workspace.batch().method;
    for (const auto& [line, member] : m_fields) {
        line->setHeld(text(method.*member));
    }
    for (const auto& [onOff, key] : m_whenComplete) {
        onOff->setChecked(std::ranges::find(method.whenComplete, key) != method.whenComplete.end());
    }
    const std::int64_t now = m_workspace.document() == nullptr ? 0 : m_workspace.document()->now();
    const QString name = reportFileName(m_workspace.batch(), now, QStringLiteral(".pdf"));
    m_example->setText(m_example->fontMetrics().elidedText(name, Qt::ElideMiddle, kSide - 28));
    m_example->setToolTip(plainTip(name));
}

QString ReportPage::facts() const {
    if (m_pages->pageCount() == 0 && m_workspace.report().isLate()) {
        return tr("The report is being laid out");
    }
    return m_pages->pageCount() == 1 ? tr("1 page") : tr("%1 pages").arg(m_pages->pageCount());
}

void ReportPage::refresh() {
    refreshBlocks();
    refreshMargins();
    showPages();
}

/// After an edit the pages of before stay until the new ones are laid out.
void ReportPage::showPages() {
    m_pages->setReport(m_workspace.report().report());
    Q_EMIT factsChanged();
}

} // namespace nuvat
