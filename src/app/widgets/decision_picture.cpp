#include "widgets/decision_picture.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <cmath>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace nuvat {

DecisionPicture::DecisionPicture(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("decisionPicture"));
    setAccessibleName(tr("Results in rising order, with their intervals and the decision limits"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    connect(&workspace, &Workspace::selectionChanged, this, qOverload<>(&QWidget::update));
}

void DecisionPicture::refresh() {
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    const DecisionRule& rule = m_workspace.analyte().decisions;
    m_limits = rule.limits;
    m_marks.clear();
    for (const SampleDecision& one : evaluation.decisions) {
        if (!one.value) {
            continue;
        }
        m_marks.push_back({one.sample, *one.value, one.low.value_or(*one.value), one.high.value_or(*one.value),
                           one.isDecided(), shown(decisionText(rule, one))});
    }
    std::ranges::sort(m_marks, {}, &Mark::value);
    m_low = m_high = m_limits.empty() ? 0 : m_limits.front();
    const auto hold = [this](double value) {
        m_low = std::min(m_low, value);
        m_high = std::max(m_high, value);
    };
    std::ranges::for_each(m_limits, hold);
    for (const Mark& mark : m_marks) {
        hold(mark.low);
        hold(mark.high);
    }
    const QFontMetrics metrics(uiFont(11));
    m_room = 0;
    for (const double limit : m_limits) {
        m_room = std::max(m_room, metrics.horizontalAdvance(shown(formatNumber(limit))));
    }
    const double margin = std::max(0.06 * (m_high - m_low), 1e-300);
    m_low -= margin;
    m_high += margin;
    update();
}

QRectF DecisionPicture::area() const {
    return QRectF(rect()).adjusted(2, 4, -m_room - 8, -4);
}

double DecisionPicture::xOf(std::size_t index) const {
    return area().left() + area().width() * (static_cast<double>(index) + 0.5) / static_cast<double>(m_marks.size());
}

double DecisionPicture::yOf(double value) const {
    return area().bottom() - area().height() * (value - m_low) / (m_high - m_low);
}

std::optional<QPointF> DecisionPicture::pointOf(int sample) const {
    const auto found = std::ranges::find(m_marks, sample, &Mark::sample);
    if (found == m_marks.end()) {
        return std::nullopt;
    }
    return QPointF(xOf(static_cast<std::size_t>(found - m_marks.begin())), yOf(found->value));
}

void DecisionPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    painter.setFont(uiFont(11));
    const QRectF inside = area();
    for (const double limit : m_limits) {
        const double y = yOf(limit);
        painter.setPen(QPen(t.ink, 1.2, Qt::DashLine));
        painter.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y));
        painter.setPen(t.ink);
        painter.drawText(QRectF(inside.right() + 5, y - 8, width() - inside.right() - 5, 16),
                         Qt::AlignLeft | Qt::AlignVCenter, shown(formatNumber(limit)));
    }
    const double radius =
        std::clamp(inside.width() / static_cast<double>(std::max<std::size_t>(m_marks.size(), 1)) / 2.6, 1.4, 3.6);
    for (std::size_t i = 0; i < m_marks.size(); ++i) {
        const Mark& mark = m_marks[i];
        const auto group = m_workspace.selection().group;
        const bool isSelected = group && group->role == Role::Unknown && group->number == mark.sample;
        const QColor colour = mark.isDecided ? t.slate : t.saffron;
        painter.setPen(QPen(colour, isSelected ? 2.4 : 1.2));
        painter.drawLine(QPointF(xOf(i), yOf(mark.low)), QPointF(xOf(i), yOf(mark.high)));
        painter.setBrush(mark.isDecided ? QBrush(colour) : QBrush(t.card)); // open: told apart without colour too
        painter.drawEllipse(QPointF(xOf(i), yOf(mark.value)), isSelected ? radius + 1.4 : radius,
                            isSelected ? radius + 1.4 : radius);
    }
}

const DecisionPicture::Mark* DecisionPicture::markAt(QPointF position) const {
    const Mark* nearest = nullptr;
    double least = 12; // pixels beside it
    for (std::size_t i = 0; i < m_marks.size(); ++i) {
        const double distance = std::abs(xOf(i) - position.x());
        if (distance < least) {
            least = distance;
            nearest = &m_marks[i];
        }
    }
    return nearest;
}

void DecisionPicture::mousePressEvent(QMouseEvent* event) {
    if (const Mark* mark = markAt(event->position())) {
        m_workspace.selectGroup({Role::Unknown, mark->sample});
    }
}

bool DecisionPicture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const Mark* mark = markAt(help->pos());
        QToolTip::showText(help->globalPos(),
                           mark == nullptr
                               ? QString()
                               : plainTip(text(fullName(m_workspace.batch(), {Role::Unknown, mark->sample})) +
                                          QStringLiteral(": ") + shown(formatFigures(mark->value, 3)) +
                                          QStringLiteral(", ") + mark->words),
                           this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace nuvat
