#include "widgets/file_legend.h"

#include "theme/style.h"

#include <QPainter>

namespace nuvat {

namespace {

constexpr int kLine = 22;

} // namespace

FileLegend::FileLegend(QWidget* parent) : QWidget(parent) {
    setFixedHeight(kLine);
}

void FileLegend::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    draw(&painter);
}

void FileLegend::resizeEvent(QResizeEvent*) {
    setFixedHeight(draw(nullptr));
}

int FileLegend::draw(QPainter* painter) const {
    const Theme& t = theme();
    const QFont font = uiFont(11.5);
    const QFontMetrics metrics(font);
    int x = 0, y = 0;
    const auto item = [&](const QString& words, const auto& paint) {
        const int wide = metrics.horizontalAdvance(words) + 29;
        y += x > 0 && x + wide > width() ? kLine : 0;
        x = x > 0 && x + wide > width() ? 0 : x;
        if (painter != nullptr) {
            paint(QRectF(x + 0.5, y + 4.5, 20, 13));
            painter->setFont(font);
            painter->setPen(t.mute);
            painter->drawText(QRect(x + 27, y, wide, kLine), Qt::AlignVCenter, words);
        }
        x += wide + 16;
    };
    item(tr("value, shaded by size"), [&](const QRectF& r) { painter->fillRect(r, t.heat(0.55)); });
    item(tr("column number"),
         [&](const QRectF& r) { painter->fillRect(QRectF(r.left(), r.bottom() - 2, r.width(), 2), t.plum); });
    item(tr("row letter or name"),
         [&](const QRectF& r) { painter->fillRect(QRectF(r.right() - 2, r.top(), 2, r.height()), t.plum); });
    item(tr("read name or unit"), [&](const QRectF& r) { painter->fillRect(r, t.plumSoft); });
    item(tr("unusable"), [&](const QRectF& r) {
        painter->setPen(QPen(t.brick, 1, Qt::DashLine));
        painter->drawRect(r);
    });
    item(tr("another read"), [&](const QRectF& r) {
        painter->setPen(t.mute);
        painter->drawRect(r);
    });
    return y + kLine;
}

} // namespace nuvat
