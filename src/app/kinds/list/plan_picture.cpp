#include "kinds/list/plan_picture.h"

#include "nuvat/core/base/number.h"
#include "theme/style.h"

#include <algorithm>
#include <numeric>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace nuvat {

namespace {

constexpr double kTop = 92, kGlass = 56, kBottle = 40, kLeft = 8, kFirst = 84;
constexpr double kFromStock = 16, kFromLevel = 70; ///< heights of the lines that lead to the glasses
constexpr double kBox = 40;                        ///< ends of the box with the volume

QString figures(double value) {
    return shown(formatFigures(value, 3));
}

} // namespace

PlanPicture::PlanPicture(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setFocusPolicy(Qt::StrongFocus);
    setObjectName(QStringLiteral("planPicture"));
    setAccessibleName(tr("How the levels are made"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&workspace, &Workspace::selectionChanged, this, qOverload<>(&QWidget::update));
}

void PlanPicture::refresh() {
    m_planned.reset();
    m_problem.clear();
    if (!m_workspace.batch().method.plan) {
        m_problem = tr("Type the concentration of the stock and the volume of each level.");
    } else if (auto planned = plannedStandards(m_workspace.batch())) {
        m_planned = std::move(*planned);
    } else {
        m_problem = shown(planned.error().text());
    }
    update();
}

std::vector<std::size_t> PlanPicture::order() const {
    std::vector<std::size_t> out(m_planned ? m_planned->numbers.size() : 0);
    std::iota(out.begin(), out.end(), std::size_t{0});
    std::ranges::stable_sort(out, std::greater{},
                             [&](std::size_t i) { return m_planned->plan.levels[i].concentration; });
    return out;
}

QRectF PlanPicture::glassRect(std::size_t position) const {
    const auto count = std::max<std::size_t>(1, m_planned ? m_planned->numbers.size() : 1);
    const double step = std::min(54.0, (width() - kFirst - 4) / static_cast<double>(count));
    const double wide = std::min(34.0, step - 8);
    return {kFirst + step * (static_cast<double>(position) + 0.5) - wide / 2, kTop, wide, kGlass};
}

QRectF PlanPicture::levelRect(int number) const {
    const auto all = order();
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (m_planned->numbers[all[i]] == number) {
            return glassRect(i);
        }
    }
    return {};
}

void PlanPicture::drawBottle(QPainter& painter) const {
    const Theme& t = theme();
    QPainterPath bottle;
    const double neck = kLeft + kBottle / 2;
    bottle.moveTo(neck - 7, kTop - 20);
    bottle.lineTo(neck - 7, kTop - 4);
    bottle.quadTo(kLeft, kTop + 4, kLeft, kTop + 16);
    bottle.lineTo(kLeft, kTop + kGlass);
    bottle.lineTo(kLeft + kBottle, kTop + kGlass);
    bottle.lineTo(kLeft + kBottle, kTop + 16);
    bottle.quadTo(kLeft + kBottle, kTop + 4, neck + 7, kTop - 4);
    bottle.lineTo(neck + 7, kTop - 20);
    painter.save();
    painter.setClipPath(bottle);
    painter.fillRect(QRectF(kLeft, kTop + 14, kBottle, kGlass), t.heatHigh);
    painter.restore();
    painter.setPen(QPen(t.plum, 1.6));
    painter.setBrush(Qt::NoBrush);
    painter.drawPath(bottle);
    const double stock = m_workspace.batch().method.plan->rules.stock;
    painter.setFont(uiFont(12, QFont::Bold));
    painter.setPen(t.inkOn(t.heatHigh));
    painter.drawText(QRectF(kLeft, kTop + 14, kBottle, kGlass - 14), Qt::AlignCenter, figures(stock));
    painter.setPen(t.ink);
    painter.drawText(QRectF(kLeft - 8, kTop + kGlass + 3, kBottle + 16, 17), Qt::AlignCenter, tr("Stock"));
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    painter.drawText(QRectF(kLeft - 8, kTop + kGlass + 19, kBottle + 16, 15), Qt::AlignCenter,
                     text(m_workspace.batch().method.analyte().unit));
}

void PlanPicture::drawGlass(QPainter& painter, std::size_t position) const {
    const Theme& t = theme();
    const std::size_t index = order()[position];
    const PlannedLevel& level = m_planned->plan.levels[index];
    const int number = m_planned->numbers[index];
    const QRectF glass = glassRect(position);
    const double stock = std::max(m_workspace.batch().method.plan->rules.stock, level.concentration);
    const double share = level.concentration > 0 ? std::pow(level.concentration / stock, 0.4) : 0;
    const QColor fill = level.concentration > 0 ? t.heat(share) : t.field;
    const auto group = m_workspace.selection().group;
    const bool isChosen = group && group->role == Role::Standard && group->number == number;
    painter.fillRect(glass.adjusted(2, 12, -2, -1), fill);
    painter.setPen(QPen(isChosen ? t.ink : t.mute, isChosen ? 2.4 : 1.4));
    painter.drawPolyline(QPolygonF{{glass.left() - 2, glass.top()},
                                   {glass.left() + 1, glass.top() + 4},
                                   {glass.left() + 1, glass.bottom()},
                                   {glass.right() - 1, glass.bottom()},
                                   {glass.right() - 1, glass.top() + 4},
                                   {glass.right() + 2, glass.top()}});
    painter.setFont(uiFont(12, QFont::Bold));
    painter.setPen(t.inkOn(fill));
    painter.drawText(glass.adjusted(-8, 12, 8, 0), Qt::AlignCenter, figures(level.concentration));
    painter.setPen(t.ink);
    painter.drawText(QRectF(glass.left() - 8, glass.bottom() + 3, glass.width() + 16, 17), Qt::AlignCenter,
                     QStringLiteral("S%1").arg(number));
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    const QString factor =
        level.concentration > 0 ? QStringLiteral("÷ ") + figures(stock / level.concentration) : tr("diluent");
    painter.drawText(QRectF(glass.left() - 12, glass.bottom() + 19, glass.width() + 24, 15), Qt::AlignCenter, factor);
}

/// From where each level is taken, with the volume in a box over its glass.
void PlanPicture::drawArrows(QPainter& painter) const {
    const Theme& t = theme();
    const auto all = order();
    const double bottle = kLeft + kBottle / 2;
    bool hasStockLine = false;
    double farthest = 0;
    for (std::size_t position = 0; position < all.size(); ++position) {
        const PlannedLevel& level = m_planned->plan.levels[all[position]];
        if (level.steps.empty() || !level.isPossible()) {
            continue;
        }
        const PlanStep& step = level.steps.front();
        const QRectF glass = glassRect(position);
        const double x = glass.center().x();
        const QColor colour = step.level ? t.slate : t.plum;
        const Qt::PenStyle style = step.level ? Qt::DashLine : Qt::SolidLine;
        painter.setPen(QPen(colour, 1.5, style));
        if (step.level) {
            const auto from = std::ranges::find(all, *step.level) - all.begin();
            const double source = glassRect(static_cast<std::size_t>(from)).center().x() + 6;
            painter.drawLine(QPointF(source, kTop + 8), QPointF(source, kFromLevel));
            painter.drawLine(QPointF(source, kFromLevel), QPointF(x, kFromLevel));
        } else {
            hasStockLine = true;
            farthest = std::max(farthest, x);
            painter.drawLine(QPointF(x, kFromStock), QPointF(x, kBox - 10));
        }
        painter.drawLine(QPointF(x, kBox + 10), QPointF(x, kTop + 6));
        painter.setPen(QPen(colour, 1.2, style));
        painter.setBrush(t.card);
        const QRectF box(x - std::min(21.0, glass.width() / 2 + 5), kBox - 10, std::min(42.0, glass.width() + 10), 20);
        painter.drawRoundedRect(box, 4, 4);
        painter.setPen(colour);
        painter.setFont(uiFont(12, QFont::Bold));
        painter.drawText(box, Qt::AlignCenter, figures(step.volume));
        painter.setBrush(colour);
        painter.setPen(Qt::NoPen);
        painter.drawPolygon(QPolygonF{{x - 4, kTop + 2}, {x + 4, kTop + 2}, {x, kTop + 9}});
    }
    if (hasStockLine) {
        painter.setPen(QPen(t.plum, 1.5));
        painter.drawPolyline(QPolygonF{{bottle, kTop - 22}, {bottle, kFromStock}, {farthest, kFromStock}});
        painter.setFont(uiFont(11));
        painter.drawText(QRectF(bottle + 8, 0, 200, 14), Qt::AlignLeft | Qt::AlignVCenter,
                         tr("%1 to pipette").arg(text(m_workspace.batch().method.plan->volumeUnit)));
    }
}

void PlanPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!m_planned) {
        painter.setFont(uiFont(13));
        painter.setPen(theme().mute);
        painter.drawText(rect(), static_cast<int>(Qt::AlignCenter) | static_cast<int>(Qt::TextWordWrap), m_problem);
        return;
    }
    drawBottle(painter);
    drawArrows(painter);
    for (std::size_t position = 0; position < m_planned->numbers.size(); ++position) {
        drawGlass(painter, position);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme().plum, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void PlanPicture::select(int number) {
    m_workspace.selectGroup({Role::Standard, number});
}

void PlanPicture::mousePressEvent(QMouseEvent* event) {
    const auto all = order();
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (glassRect(i).adjusted(-6, -60, 6, 36).contains(event->position())) {
            select(m_planned->numbers[all[i]]);
            return;
        }
    }
    QWidget::mousePressEvent(event);
}

void PlanPicture::keyPressEvent(QKeyEvent* event) {
    const int by = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    const auto all = order();
    if (by == 0 || all.empty()) {
        QWidget::keyPressEvent(event);
        return;
    }
    const auto group = m_workspace.selection().group;
    std::ptrdiff_t now = -1;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const bool isIt = group && group->role == Role::Standard && group->number == m_planned->numbers[all[i]];
        now = isIt ? static_cast<std::ptrdiff_t>(i) : now;
    }
    const auto next = std::clamp<std::ptrdiff_t>(now + by, 0, static_cast<std::ptrdiff_t>(all.size()) - 1);
    select(m_planned->numbers[all[static_cast<std::size_t>(next)]]);
}

} // namespace nuvat
