#pragma once

#include "nuvat/report/theme.h"

#include <algorithm>
#include <functional>
#include <QFontMetricsF>
#include <QPainter>
#include <QString>
#include <vector>

namespace nuvat {

// Layout unit: a quarter of a point, so that whole-pixel fonts are fine enough.
constexpr double kUnit = 4;
constexpr double kPageWidth = 595 * kUnit;
constexpr double kPageHeight = 842 * kUnit;
constexpr double kMargin = 48 * kUnit;
constexpr double kTop = 46 * kUnit;
constexpr double kBottom = 52 * kUnit;
constexpr double kText = 9 * kUnit;
constexpr double kSmall = 8 * kUnit;
constexpr double kRow = 15 * kUnit;

using Draw = std::function<void(QPainter&)>;

inline QFont reportFont(double size, QFont::Weight weight = QFont::Normal) {
    QFont font = uiFont(size, weight);
    font.setHintingPreference(QFont::PreferNoHinting);
    // A trace of letter spacing turns ligatures off, so that text copied from the PDF or searched in it is whole.
    font.setLetterSpacing(QFont::AbsoluteSpacing, 0.02);
    return font;
}

struct Column {
    QString heading;
    double width = 0; ///< in points
    bool isNumber = true;
    bool isBold = false;
};

/// Puts text, tables and figures below each other and begins a new page when one is full.
class Pages {
public:
    std::vector<std::vector<Draw>> take() { return std::move(m_pages); }

    double left() const { return kMargin; }
    double width() const { return kPageWidth - 2 * kMargin; }
    double y() const { return m_y; }
    void space(double points) { m_y += points * kUnit; }

    /// Begins a new page unless `height` (in units) is left on this one.
    void need(double height) {
        if (m_pages.empty() || m_y + height > kPageHeight - kBottom) {
            m_pages.emplace_back();
            m_y = kTop;
        }
    }

    /// Begins a new page, unless this one is empty.
    void turn() {
        if (!m_pages.empty() && m_y > kTop) {
            need(kPageHeight);
        }
    }

    void add(Draw draw) { m_pages.back().push_back(std::move(draw)); }

    /// A paragraph, wrapped to the width.
    void paragraph(const QString& what, const QFont& font, const QColor& colour) {
        const QFontMetricsF metrics(font);
        const QRectF bounds = metrics.boundingRect(QRectF(0, 0, width(), 1e6), Qt::TextWordWrap | Qt::AlignLeft, what);
        need(bounds.height());
        const QRectF area(left(), m_y, width(), bounds.height() + kUnit);
        add([=](QPainter& painter) {
            painter.setFont(font);
            painter.setPen(colour);
            painter.drawText(area, Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, what);
        });
        m_y += bounds.height();
    }

    /// Title of a block; stays with at least `following` units of what comes after it.
    void title(const QString& what, double following) {
        space(m_pages.empty() || m_y <= kTop ? 0 : 12);
        need(14 * kUnit + following);
        paragraph(what, reportFont(10.5 * kUnit, QFont::Bold), lightTheme().ink);
        space(3);
    }

    /// A table whose heading is repeated on every page; a row is never cut.
    void table(const std::vector<Column>& columns, const std::vector<QStringList>& rows) {
        const QFont headingFont = reportFont(kSmall, QFont::Bold);
        need(3 * kRow);
        drawHeading(columns, headingFont);
        for (const QStringList& row : rows) {
            const double height = rowHeight(columns, row);
            if (m_y + height > kPageHeight - kBottom) {
                need(kPageHeight);
                drawHeading(columns, headingFont);
            }
            drawRow(columns, row, height);
        }
    }

private:
    static QFont cellFont(const Column& column) {
        return reportFont(kSmall, column.isBold ? QFont::Bold : QFont::Normal);
    }

    static double rowHeight(const std::vector<Column>& columns, const QStringList& row) {
        double height = kRow;
        for (std::size_t i = 0; i < columns.size(); ++i) {
            const QFontMetricsF metrics(cellFont(columns[i]));
            const QRectF bounds = metrics.boundingRect(QRectF(0, 0, columns[i].width * kUnit - 6 * kUnit, 1e6),
                                                       Qt::TextWordWrap, row[static_cast<qsizetype>(i)]);
            height = std::max(height, bounds.height() + 5 * kUnit);
        }
        return height;
    }

    void drawHeading(const std::vector<Column>& columns, const QFont& font) {
        double height = kRow;
        for (const Column& column : columns) {
            const QRectF bounds = QFontMetricsF(font).boundingRect(QRectF(0, 0, (column.width - 6) * kUnit, 1e6),
                                                                   Qt::TextWordWrap, column.heading);
            height = std::max(height, bounds.height() + 5 * kUnit);
        }
        cells(
            columns, height, [&columns](std::size_t i) { return columns[i].heading; },
            [font](std::size_t) { return font; }, lightTheme().mute, Qt::AlignBottom);
        rule(1.2, lightTheme().mute);
    }

    void drawRow(const std::vector<Column>& columns, const QStringList& row, double height) {
        cells(
            columns, height, [&row](std::size_t i) { return row[static_cast<qsizetype>(i)]; },
            [&columns](std::size_t i) { return cellFont(columns[i]); }, lightTheme().ink, Qt::AlignVCenter);
        rule(0.5, lightTheme().line);
    }

    template<class TextOf, class FontOf>
    void cells(const std::vector<Column>& columns, double height, TextOf textOf, FontOf fontOf, const QColor& colour,
               Qt::Alignment vertical) {
        double x = left();
        for (std::size_t i = 0; i < columns.size(); ++i) {
            const double w = columns[i].width * kUnit;
            const QRectF area(x + 3 * kUnit, m_y, w - 6 * kUnit, height - 1.5 * kUnit);
            const auto flags = (columns[i].isNumber ? Qt::AlignRight : Qt::AlignLeft) | vertical;
            add([=, what = textOf(i), font = fontOf(i)](QPainter& painter) {
                painter.setFont(font);
                painter.setPen(colour);
                painter.drawText(area, static_cast<int>(flags) | Qt::TextWordWrap, what);
            });
            x += w;
        }
        m_tableWidth = x - left();
        m_y += height;
    }

    void rule(double points, const QColor& colour) {
        const QLineF at(left(), m_y, left() + m_tableWidth, m_y);
        add([=](QPainter& painter) {
            painter.setPen(QPen(colour, points * kUnit / 2));
            painter.drawLine(at);
        });
    }

    std::vector<std::vector<Draw>> m_pages;
    double m_y = 0;
    double m_tableWidth = 0;
};

} // namespace nuvat
