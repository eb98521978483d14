#pragma once

#include "nuvat/batch/evaluation.h"

#include <QColor>
#include <QFont>
#include <QString>
#include <string>

namespace nuvat {

/// Colours by role; one table for light, one for dark. A `Soft` colour is the tint behind text of its colour.
struct Theme {
    bool isDark = false;
    QColor paper, card, rail, ink, mute, line, field;
    QColor plum, plumSoft;       ///< accent, standards, the curve
    QColor saffron, saffronSoft; ///< QC; review
    QColor slate, slateSoft;     ///< unknowns
    QColor grey, greySoft;       ///< blanks
    QColor pine, pineSoft;       ///< pass
    QColor brick, brickSoft;     ///< fail
    QColor heatLow, heatHigh;    ///< ends of the heat map
    QColor onPlum;               ///< text on plum

    QColor role(Role role) const;
    QColor roleSoft(Role role) const;
    QColor outcome(Outcome outcome) const;
    QColor outcomeSoft(Outcome outcome) const;
    QColor heat(double share) const;        ///< share 0 to 1 of the scale
    QColor inkOn(const QColor& fill) const; ///< dark or light text, whichever has more contrast (WCAG 2.1) on the fill
};

const Theme& lightTheme();
const Theme& darkTheme();

/// Registers the fonts that ship with Nuvat; call once a QGuiApplication exists. Repeated calls do nothing.
void loadFonts();
/// Lato at a size in pixels.
QFont uiFont(double pixels, QFont::Weight weight = QFont::Normal);

/// UTF-8 text for people; decimal points between digits become the locale's decimal sign.
QString shown(const std::string& text);
/// UTF-8 text as it stands.
QString text(const std::string& text);
/// "14 September 2026, 10:36" in local time.
QString timeText(std::int64_t millis);
/// "10:36"
QString clockText(std::int64_t millis);

} // namespace nuvat
