#include "widgets/picture_file.h"

#include "nuvat/workflow/export.h"
#include "theme/style.h"

#include <QBuffer>
#include <QPainter>
#include <QSvgGenerator>

namespace nuvat {

namespace {

/// Also what is behind the widget: its card is not painted by itself.
void paintOn(QPaintDevice& device, QWidget& widget) {
    QPainter painter(&device);
    painter.fillRect(widget.rect(), theme().card);
    widget.render(&painter, {}, {}, QWidget::DrawChildren);
}

QByteArray svgOf(QWidget& widget, const QString& title) {
    QBuffer bytes;
    QSvgGenerator svg;
    svg.setOutputDevice(&bytes);
    svg.setSize(widget.size());
    svg.setViewBox(widget.rect());
    svg.setTitle(title);
    paintOn(svg, widget);
    return bytes.data();
}

QByteArray pngOf(QWidget& widget) {
    constexpr int kScale = 3; // for print
    QImage image(widget.size() * kScale, QImage::Format_ARGB32_Premultiplied);
    image.setDevicePixelRatio(kScale);
    paintOn(image, widget);
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    image.save(&bytes, "PNG");
    return bytes.data();
}

} // namespace

Result<void> savePicture(QWidget& widget, const QString& title, const std::filesystem::path& path) {
    const bool isSvg = QString::fromStdString(path.extension().string()).compare(u".svg", Qt::CaseInsensitive) == 0;
    return writeText(path, (isSvg ? svgOf(widget, title) : pngOf(widget)).toStdString());
}

} // namespace nuvat
