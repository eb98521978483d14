#include "panels/report_page.h"

#include "theme/style.h"
#include "widgets/controls.h"

#include <cmath>
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
    middle->addWidget(makeBlocks());
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

QWidget* ReportPage::makeBlocks() {
    auto* blocks = new Card(tr("What goes in"), this);
    blocks->setFixedWidth(214);
    for (const ReportBlock& block : reportBlocks()) {
        auto* row = new QHBoxLayout;
        row->setContentsMargins(2, 3, 2, 3);
        auto* word = makeLabel(QString::fromUtf8(block.title), "value", blocks);
        word->setWordWrap(true);
        row->addWidget(word, 1);
        auto* onOff = new Switch(blocks);
        onOff->setObjectName(QStringLiteral("block_") + text(block.key));
        onOff->setAccessibleName(QString::fromUtf8(block.title));
        onOff->setEnabled(block.key != "heading");
        connect(onOff, &QAbstractButton::clicked, this, [this, key = block.key, title = block.title](bool isOn) {
            m_workspace.apply(setMethod(m_workspace.newest(), withBlock(m_workspace.newest().method, key, isOn),
                                        std::string("Report ") + (isOn ? "with " : "without ") + title));
        });
        row->addWidget(onOff);
        blocks->body()->addLayout(row);
        m_switches.push_back(onOff);
    }
    auto* kept = makeLabel(tr("The choice is kept in the method."), "small", blocks);
    kept->setWordWrap(true);
    blocks->body()->addSpacing(4);
    blocks->body()->addWidget(kept);
    blocks->body()->addStretch();
    return blocks;
}

QString ReportPage::facts() const {
    if (m_pages->pageCount() == 0 && m_workspace.report().isLate()) {
        return tr("The report is being laid out");
    }
    return m_pages->pageCount() == 1 ? tr("1 page") : tr("%1 pages").arg(m_pages->pageCount());
}

void ReportPage::refresh() {
    for (std::size_t i = 0; i < m_switches.size(); ++i) {
        m_switches[i]->setChecked(hasBlock(m_workspace.batch().method, reportBlocks()[i].key));
    }
    showPages();
}

/// After an edit the pages of before stay until the new ones are laid out.
void ReportPage::showPages() {
    m_pages->setReport(m_workspace.report().report());
    Q_EMIT factsChanged();
}

} // namespace nuvat
