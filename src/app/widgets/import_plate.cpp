#include "widgets/import_plate.h"

#include "nuvat/core/base/well.h"
#include "theme/style.h"

#include <algorithm>
#include <QPainter>

namespace nuvat {

ImportPlate::ImportPlate(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(120);
}

void ImportPlate::setImport(const PlateImport* import) {
    const bool isPlate = import != nullptr && !import->isRunList;
    m_rows = isPlate ? import->rows : 0;
    m_columns = isPlate ? import->columns : 0;
    m_wells = isPlate ? import->wells : std::vector<PlateCell>();
    setVisible(isPlate);
    update();
}

void ImportPlate::paintEvent(QPaintEvent*) {
    if (m_rows == 0) {
        return;
    }
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(uiFont(11));
    const Theme& t = theme();
    constexpr int kSide = 18;
    const double w = (width() - kSide) / static_cast<double>(m_columns);
    const double h = (height() - kSide) / static_cast<double>(m_rows);
    double low = 1e300, high = -1e300;
    for (const PlateCell& well : m_wells) {
        low = std::min(low, well.value.value_or(low));
        high = std::max(high, well.value.value_or(high));
    }
    painter.setPen(t.mute);
    const int acrossStep = w >= 17 ? 1 : static_cast<int>(17 / w) + 1,
              downStep = h >= 12 ? 1 : static_cast<int>(12 / h) + 1;
    for (int column = 0; column < m_columns; column += acrossStep) {
        painter.drawText(QRectF(kSide + column * w - 6, 0, w + 12, kSide), Qt::AlignCenter,
                         QString::number(column + 1));
    }
    for (int row = 0; row < m_rows; row += downStep) {
        painter.drawText(QRectF(0, kSide + row * h - 3, kSide - 4, h + 6), Qt::AlignCenter, text(rowLetters(row)));
    }
    const double gap = std::min(1.0, w / 8);
    for (std::size_t i = 0; i < m_wells.size(); ++i) {
        const int row = static_cast<int>(i) / m_columns, column = static_cast<int>(i) % m_columns;
        const QRectF area = QRectF(kSide + column * w, kSide + row * h, w, h).adjusted(gap, gap, -gap, -gap);
        const PlateCell& well = m_wells[i];
        if (well.value) {
            painter.fillRect(area, t.heat(high > low ? (*well.value - low) / (high - low) : 0.5));
        } else {
            painter.setPen(QPen(well.text.empty() ? t.line : t.brick, 1, Qt::DashLine));
            painter.drawRect(area.adjusted(0.5, 0.5, -0.5, -0.5));
        }
    }
}

} // namespace nuvat
