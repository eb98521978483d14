#pragma once

#include "nuvat/core/base/error.h"

#include <filesystem>
#include <QImage>
#include <QWidget>

namespace nuvat {

/// A widget as it is seen, in so many times its pixels.
QImage pictureOf(QWidget& widget, int scale);

/// Writes a widget as it is seen: lines and text that stay sharp at any size where the path ends in .svg or .pdf,
/// else a PNG of three times its pixels. @return the errors of ReplacementFile: the file is whole, or as it was
Result<void> savePicture(QWidget& widget, const QString& title, const std::filesystem::path& path);

} // namespace nuvat
