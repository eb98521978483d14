#include "widgets/cv_plot.h"

#include "nuvat/batch/curve_shape.h"
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

namespace {
constexpr double kUsualLimit = 20; // of the scale where the criteria have none
}

CvPlot::CvPlot(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setAccessibleName(tr("CV of the replicates of every sample"));
    setMouseTracking(true);
    connect(&workspace, &Workspace::changed, this, qOverload<>(&QWidget::update));
    connect(&workspace, &Workspace::selectionChanged, this, qOverload<>(&QWidget::update));
}

QRectF CvPlot::plot() const {
    return QRectF(rect()).adjusted(34, 8, -12, -8);
}

double CvPlot::top() const {
    double most = m_workspace.batch().method.limits.unknownCv.value_or(kUsualLimit);
    for (const SampleResult& result : m_workspace.evaluation().results) {
        if (result.status == ResultStatus::Reported) {
            most = std::max(most, result.concentration.cvPercent.value_or(0));
        }
    }
    return most * 1.15;
}

std::vector<CvPlot::Point> CvPlot::points() const {
    std::vector<Point> out;
    const QRectF area = plot();
    const auto& results = m_workspace.evaluation().results;
    const double step = area.width() / static_cast<double>(std::max<std::size_t>(results.size(), 1));
    for (std::size_t i = 0; i < results.size(); ++i) {
        const auto cv = results[i].concentration.cvPercent;
        if (cv && results[i].status == ResultStatus::Reported) {
            out.push_back({results[i].group, *cv,
                           QPointF(area.left() + (static_cast<double>(i) + 0.5) * step,
                                   area.bottom() - *cv / top() * area.height())});
        }
    }
    return out;
}

void CvPlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF area = plot();
    const double limit = m_workspace.batch().method.limits.unknownCv.value_or(kUsualLimit);
    const auto y = [&](double cv) { return area.bottom() - cv / top() * area.height(); };
    painter.setFont(uiFont(11));
    for (const double tick : roundTicks(0, top(), 4)) {
        painter.setPen(QPen(t.line, 1));
        painter.drawLine(QPointF(area.left(), y(tick)), QPointF(area.right(), y(tick)));
        painter.setPen(t.mute);
        painter.drawText(QRectF(0, y(tick) - 8, 28, 16), Qt::AlignRight | Qt::AlignVCenter, shown(formatNumber(tick)));
    }
    painter.setPen(QPen(t.mute, 1.6));
    painter.drawLine(QPointF(area.left(), y(limit)), QPointF(area.right(), y(limit)));
    for (const Point& point : points()) {
        const bool isAbove = point.cv > limit && point.group.role == Role::Unknown;
        drawRoleShape(painter, point.at, 4, point.group.role == Role::Qc ? Role::Qc : Role::Standard,
                      isAbove ? t.saffron : t.role(point.group.role));
        if (isAbove) {
            painter.setPen(t.ink);
            painter.setFont(uiFont(12, QFont::Bold));
            const bool isRight = point.at.x() > area.center().x();
            painter.drawText(QRectF(point.at.x() + (isRight ? -128 : 8), point.at.y() - 9, 120, 18),
                             int((isRight ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter),
                             text(shortName(m_workspace.batch(), point.group)) + QStringLiteral(" ") +
                                 shown(formatPercent(point.cv)));
        }
        if (m_workspace.selection().group == point.group) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(t.ink, 1.6));
            painter.drawEllipse(point.at, 7.5, 7.5);
        }
    }
}

const CvPlot::Point* CvPlot::nearest(const std::vector<Point>& all, QPointF position) const {
    const Point* best = nullptr;
    double distance = 10;
    for (const Point& point : all) {
        const double d = std::hypot(point.at.x() - position.x(), point.at.y() - position.y());
        if (d < distance) {
            distance = d;
            best = &point;
        }
    }
    return best;
}

void CvPlot::mousePressEvent(QMouseEvent* event) {
    const auto all = points();
    if (const Point* point = nearest(all, event->position())) {
        m_workspace.selectGroup(point->group);
    }
}

bool CvPlot::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const auto all = points();
        if (const Point* point = nearest(all, help->pos())) {
            QToolTip::showText(help->globalPos(),
                               plainTip(text(shortName(m_workspace.batch(), point->group) + " · " +
                                             fullName(m_workspace.batch(), point->group)) +
                                        QStringLiteral(" · CV ") + shown(formatPercent(point->cv))),
                               this);
        }
        return true;
    }
    return QWidget::event(event);
}

} // namespace nuvat
