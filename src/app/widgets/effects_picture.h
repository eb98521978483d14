#pragma once

#include "nuvat/core/stats/position_effects.h"

#include <QWidget>

namespace nuvat {

/// What rows and columns of a plate add to its readings, as bars about a line.
class EffectsPicture : public QWidget {
public:
    explicit EffectsPicture(QWidget* parent);
    void setEffects(std::optional<PositionEffects> effects);
    QSize minimumSizeHint() const override { return {160, 40}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Strip {
        QRectF area;
        const std::vector<std::optional<double>>* percents = nullptr;
        bool isOfRows = false;
        double step() const { return area.width() / static_cast<double>(percents->size()); }
    };
    std::vector<Strip> strips() const;
    static QString title(const Strip& strip, std::size_t index);

    std::optional<PositionEffects> m_effects;
};

} // namespace nuvat
