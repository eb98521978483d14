#include "widgets/picture_file.h"

#include "nuvat/workflow/export.h"
#include "theme/style.h"

#include <QBuffer>
#include <QPainter>
#include <QPdfWriter>
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

/// One page of the size of the widget.
QByteArray pdfOf(QWidget& widget, const QString& title) {
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    QPdfWriter pdf(&bytes);
    pdf.setTitle(title);
    pdf.setCreator(QStringLiteral("Nuvat"));
    pdf.setPageMargins(QMarginsF(0, 0, 0, 0));
    constexpr double kPoints = 0.75; // a pixel of 96 an inch
    pdf.setPageSize(QPageSize(QSizeF(widget.size()) * kPoints, QPageSize::Point));
    pdf.setResolution(96);
    paintOn(pdf, widget);
    return bytes.data();
}

QByteArray pngOf(QWidget& widget) {
    constexpr int kScale = 3; // for print
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    pictureOf(widget, kScale).save(&bytes, "PNG");
    return bytes.data();
}

} // namespace

QImage pictureOf(QWidget& widget, int scale) {
    QImage image(widget.size() * scale, QImage::Format_ARGB32_Premultiplied);
    image.setDevicePixelRatio(scale);
    paintOn(image, widget);
    return image;
}

Result<void> savePicture(QWidget& widget, const QString& title, const std::filesystem::path& path) {
    const QString ending = QString::fromStdString(path.extension().string()).toLower();
    const QByteArray bytes = ending == u".svg"   ? svgOf(widget, title)
                             : ending == u".pdf" ? pdfOf(widget, title)
                                                 : pngOf(widget);
    return writeText(path, bytes.toStdString());
}

} // namespace nuvat
