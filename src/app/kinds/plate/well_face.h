#pragma once

#include "nuvat/batch/evaluation.h"

#include <optional>
#include <QColor>
#include <QPointF>
#include <QRectF>
#include <QStringList>
#include <vector>

class QPainter;

namespace nuvat {

/// What a well shows, apart from selection and hover. Two equal faces look the same, so a plate repaints those that
/// differ.
struct WellFace {
    enum class Frame { None, Line, Dashed };
    Frame frame = Frame::None;
    QColor fill, ink, frameColour;
    QStringList texts;
    std::vector<QPointF> line;                      ///< what the well showed over time, in the unit square
    std::optional<std::pair<double, double>> taken; ///< the part of it that counts
    std::optional<Role> role;                       ///< where the plate shows roles
    bool isBold = false;
    bool isExcluded = false;
    bool isIncomplete = false;                   ///< something has to be typed for it
    bool joinsRight = false, joinsBelow = false; ///< to a replicate
    bool operator==(const WellFace&) const = default;
};

/// Paints a face into the area of its well.
void drawFace(QPainter& painter, const WellFace& face, const QRectF& area);

} // namespace nuvat
