#pragma once

#include "nuvat/report/theme.h"

#include <QIcon>

class QApplication;
class QWidget;

namespace nuvat {

/// The theme the window uses now: follows the desktop, or forced for pictures.
const Theme& theme();
void setDark(bool isDark);
/// Applies palette, font and style sheet to the application.
void applyStyle(QApplication& application);
/// An icon of ours by name ("printer"), in the given colour; crisp at every scale.
QIcon icon(const QString& name, const QColor& colour);

/// Sizes of the frame in pixels.
namespace frame {
inline constexpr int kTopBar = 46;
inline constexpr int kRail = 188;
inline constexpr int kPanel = 296;
inline constexpr int kStatus = 24;
inline constexpr int kPage = 14; ///< margin of a page
inline constexpr int kGap = 10;  ///< between cards
} // namespace frame

} // namespace nuvat
