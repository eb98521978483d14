#include "plots/curve_overlay.h"

#include "theme/style.h"

#include <algorithm>
#include <array>

namespace nuvat {

namespace {

/// Told apart without colour.
constexpr std::array<Qt::PenStyle, 4> kStyles{Qt::DashLine, Qt::DotLine, Qt::DashDotLine, Qt::DashDotDotLine};

QVector<double> list(const std::vector<double>& values) {
    return {values.begin(), values.end()};
}

} // namespace

void CurveOverlay::show(const std::vector<OtherCurve>& curves, const std::set<std::string>& wanted,
                        const CurveShape& shape) {
    for (const Line& line : m_lines) {
        m_plot.removePlottable(line.graph);
        m_plot.removeItem(line.label);
    }
    m_lines.clear();
    for (std::size_t i = 0; i < curves.size(); ++i) {
        if (!wanted.contains(curves[i].name)) {
            continue;
        }
        constexpr int kSamples = 200;
        const auto [x, y] = drawnOn(shape, curves[i], kSamples);
        if (x.empty()) {
            continue;
        }
        Line line{curves[i].name, m_plot.addGraph(m_rect.axis(QCPAxis::atBottom), m_rect.axis(QCPAxis::atLeft)),
                  new QCPItemText(&m_plot)};
        line.graph->setLayer(QStringLiteral("grid")); // behind the curve that is shown
        line.graph->setData(list(x), list(y), true);
        line.graph->setPen(QPen(theme().mute, 1.4, kStyles.at(i % kStyles.size())));
        line.label->setText(text(line.name));
        line.label->setFont(uiFont(11.5));
        line.label->setColor(theme().ink);
        QColor paper = theme().card;
        paper.setAlphaF(0.85F);
        line.label->setBrush(paper);
        line.label->setPadding(QMargins(3, 0, 3, 0));
        line.label->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        line.label->position->setType(QCPItemPosition::ptAbsolute);
        m_lines.push_back(line);
    }
    placeNames();
}

/// Beside the right end of what is seen of each line; names that would lie over each other move down.
void CurveOverlay::placeNames() {
    const QCPAxis *x = m_rect.axis(QCPAxis::atBottom), *y = m_rect.axis(QCPAxis::atLeft);
    const QRectF area = m_rect.rect();
    std::vector<double> taken;
    for (const Line& line : m_lines) {
        const auto& data = *line.graph->data();
        QPointF end;
        for (auto point = data.constBegin(); point != data.constEnd(); ++point) {
            const QPointF at(x->coordToPixel(point->key), y->coordToPixel(point->value));
            end = area.contains(at) ? at : end;
        }
        line.label->setVisible(!end.isNull());
        const QFontMetricsF metrics(line.label->font());
        const double wide = metrics.horizontalAdvance(line.label->text()) + 8;
        double top = std::clamp(end.y(), area.top() + metrics.height() / 2, area.bottom() - metrics.height() / 2);
        while (std::ranges::any_of(taken, [&](double other) { return std::abs(other - top) < metrics.height(); })) {
            top += 1;
        }
        taken.push_back(top);
        line.label->position->setCoords(std::clamp(end.x() + 3, area.left(), area.right() - wide - 2), top);
    }
}

QRectF CurveOverlay::areaOf(const std::string& name) const {
    const auto found = std::ranges::find(m_lines, name, &Line::name);
    if (found == m_lines.end() || !found->label->visible()) {
        return {};
    }
    return {found->label->topLeft->pixelPosition(), found->label->bottomRight->pixelPosition()};
}

std::string CurveOverlay::nameAt(QPointF position) const {
    const auto found =
        std::ranges::find_if(m_lines, [&](const Line& line) { return areaOf(line.name).contains(position); });
    return found == m_lines.end() ? std::string() : found->name;
}

} // namespace nuvat
