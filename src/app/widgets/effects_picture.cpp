#include "widgets/effects_picture.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"
#include "nuvat/report/theme.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>
#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>

namespace nuvat {

EffectsPicture::EffectsPicture(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("effectsPicture"));
    setAccessibleName(tr("What rows and columns add to the readings, in percent"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setMouseTracking(true);
}

void EffectsPicture::setEffects(std::optional<PositionEffects> effects) {
    m_effects = std::move(effects);
    update();
}

/// Rows at the left and columns at the right, bars of one width.
std::vector<EffectsPicture::Strip> EffectsPicture::strips() const {
    if (!m_effects) {
        return {};
    }
    constexpr double kGap = 16, kNames = 15;
    const auto rows = static_cast<double>(m_effects->rows.size()),
               columns = static_cast<double>(m_effects->columns.size());
    const double step = (width() - kGap) / (rows + columns), height = this->height() - kNames;
    return {{{0, 0, rows * step, height}, &m_effects->rows, true},
            {{rows * step + kGap, 0, columns * step, height}, &m_effects->columns, false}};
}

QString EffectsPicture::title(const Strip& strip, std::size_t index) {
    const auto number = static_cast<int>(index);
    return strip.isOfRows ? text(rowLetters(number)) : QString::number(number + 1);
}

void EffectsPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    double most = 1; // percent; smaller ones stay small
    for (const Strip& strip : strips()) {
        for (const auto& percent : *strip.percents) {
            most = std::max(most, std::abs(percent.value_or(0)));
        }
    }
    painter.setFont(uiFont(11));
    for (const Strip& strip : strips()) {
        const double middle = strip.area.center().y(), step = strip.step();
        painter.setPen(QPen(t.line, 1));
        painter.drawLine(QPointF(strip.area.left(), middle), QPointF(strip.area.right(), middle));
        const PositionEffect& largest = strip.isOfRows ? m_effects->row : m_effects->column;
        for (std::size_t i = 0; i < strip.percents->size(); ++i) {
            const double left = strip.area.left() + static_cast<double>(i) * step;
            const bool isMarked = m_effects->isFound() && largest.index == i && 3 * largest.p < 0.05;
            if (const auto& percent = (*strip.percents)[i]) {
                const double height = *percent / most * (strip.area.height() / 2 - 2);
                const QRectF bar(left + step * 0.15, middle - std::max(height, 0.0), step * 0.7, std::abs(height));
                painter.fillRect(bar, isMarked ? t.saffron : t.slate);
            }
            const bool isNamed = isMarked || i == 0 || i + 1 == strip.percents->size();
            if (isNamed) {
                painter.setPen(isMarked ? t.ink : t.mute);
                const QString name = title(strip, i);
                const double wide = painter.fontMetrics().horizontalAdvance(name);
                const double at = std::clamp(left + (step - wide) / 2, 0.0, std::max(width() - wide, 0.0));
                painter.drawText(QRectF(at, strip.area.bottom(), wide + 1, 15), Qt::AlignCenter, name);
            }
        }
    }
}

bool EffectsPicture::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) {
        return QWidget::event(event);
    }
    const auto* help = static_cast<QHelpEvent*>(event);
    for (const Strip& strip : strips()) {
        const double along = (help->pos().x() - strip.area.left()) / strip.step();
        const auto index = static_cast<std::size_t>(std::max(along, 0.0));
        if (along >= 0 && index < strip.percents->size() && (*strip.percents)[index]) {
            QToolTip::showText(help->globalPos(),
                               (strip.isOfRows ? tr("Row %1: %2") : tr("Column %1: %2"))
                                   .arg(title(strip, index), shown(formatPercent(*(*strip.percents)[index]))),
                               this);
            return true;
        }
    }
    QToolTip::hideText();
    return true;
}

} // namespace nuvat
