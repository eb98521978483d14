#include "nuvat/report/theme.h"

#include <algorithm>
#include <cmath>
#include <QDateTime>
#include <QFontDatabase>
#include <QLocale>

// Outside the namespace: the macro declares a function of the global one.
static void registerFontResource() {
    Q_INIT_RESOURCE(fonts);
}

namespace nuvat {

namespace {

Theme makeLight() {
    Theme t;
    t.paper = QColor(0xF6F4EF);
    t.card = QColor(0xFFFFFF);
    t.rail = QColor(0xFBFAF7);
    t.field = QColor(0xF1EFE9);
    t.ink = QColor(0x22252B);
    t.mute = QColor(0x6B6E76);
    t.line = QColor(0xE1DCD2);
    t.plum = QColor(0x5A3566);
    t.plumSoft = QColor(0xEFE7F2);
    t.saffron = QColor(0xC4820E);
    t.saffronSoft = QColor(0xFBF1DC);
    t.slate = QColor(0x46647F);
    t.slateSoft = QColor(0xE6EDF3);
    t.grey = QColor(0x8A8D94);
    t.greySoft = QColor(0xF0EFEC);
    t.pine = QColor(0x2B765F);
    t.pineSoft = QColor(0xE2F0EA);
    t.brick = QColor(0xAE4630);
    t.brickSoft = QColor(0xF8E6E1);
    t.heatLow = QColor(0xF1ECE6);
    t.heatHigh = QColor(0x5A3566);
    t.onPlum = QColor(0xFFFFFF);
    return t;
}

Theme makeDark() {
    Theme t;
    t.isDark = true;
    t.paper = QColor(0x1E1C22);
    t.card = QColor(0x28252D);
    t.rail = QColor(0x232027);
    t.field = QColor(0x322E38);
    t.ink = QColor(0xECE9F0);
    t.mute = QColor(0xA39FAB);
    t.line = QColor(0x3A3640);
    t.plum = QColor(0xB58AC6);
    t.plumSoft = QColor(0x3A2C42);
    t.saffron = QColor(0xE2A93B);
    t.saffronSoft = QColor(0x43361C);
    t.slate = QColor(0x8FB0CC);
    t.slateSoft = QColor(0x26323D);
    t.grey = QColor(0x8A8D94);
    t.greySoft = QColor(0x2E2B33);
    t.pine = QColor(0x63B597);
    t.pineSoft = QColor(0x1F3A32);
    t.brick = QColor(0xE07F68);
    t.brickSoft = QColor(0x45251F);
    t.heatLow = QColor(0x322E38);
    t.heatHigh = QColor(0xB58AC6);
    t.onPlum = QColor(0x1E1C22);
    return t;
}

} // namespace

QColor Theme::role(Role role) const {
    switch (role) {
    case Role::Standard:
        return plum;
    case Role::Qc:
    case Role::CheckStandard:
        return saffron;
    case Role::Unknown:
    case Role::Spike:
    case Role::Addition:
        return slate;
    case Role::Blank:
    case Role::DoubleBlank:
    case Role::ReagentBlank:
    case Role::NegativeControl:
    case Role::Empty:
        break;
    }
    return grey;
}

QColor Theme::roleSoft(Role role) const {
    switch (role) {
    case Role::Standard:
        return plumSoft;
    case Role::Qc:
    case Role::CheckStandard:
        return saffronSoft;
    case Role::Unknown:
    case Role::Spike:
    case Role::Addition:
        return slateSoft;
    case Role::Blank:
    case Role::DoubleBlank:
    case Role::ReagentBlank:
    case Role::NegativeControl:
        return greySoft;
    case Role::Empty:
        break;
    }
    return card;
}

QColor Theme::outcome(Outcome outcome) const {
    switch (outcome) {
    case Outcome::Pass:
        return pine;
    case Outcome::Review:
        return isDark ? saffron : QColor(0x8A5A05); // the token itself has too little contrast as small text
    case Outcome::Fail:
        return brick;
    case Outcome::NotApplicable:
        break;
    }
    return mute;
}

QColor Theme::outcomeSoft(Outcome outcome) const {
    switch (outcome) {
    case Outcome::Pass:
        return pineSoft;
    case Outcome::Review:
        return saffronSoft;
    case Outcome::Fail:
        return brickSoft;
    case Outcome::NotApplicable:
        break;
    }
    return greySoft;
}

QColor Theme::heat(double share) const {
    const double s = std::clamp(share, 0.0, 1.0);
    const auto mix = [s](int low, int high) { return static_cast<int>(std::lround(low + s * (high - low))); };
    return {mix(heatLow.red(), heatHigh.red()), mix(heatLow.green(), heatHigh.green()),
            mix(heatLow.blue(), heatHigh.blue())};
}

QColor Theme::inkOn(const QColor& fill) const {
    constexpr double kEnough = 4.5; // WCAG 2.1, success criterion 1.4.3
    const auto luminance = [](const QColor& c) {
        const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const auto contrast = [&](const QColor& text) {
        const double there = luminance(fill) + 0.05;
        const double here = luminance(text) + 0.05;
        return std::max(there, here) / std::min(there, here);
    };
    for (const QColor& own : {isDark ? ink : card, isDark ? paper : ink}) {
        if (contrast(own) >= kEnough) {
            return own;
        }
    }
    // In the middle of the scale only black or white stands out enough.
    const QColor black(Qt::black);
    const QColor white(Qt::white);
    return contrast(black) > contrast(white) ? black : white;
}

const Theme& lightTheme() {
    static const Theme theme = makeLight();
    return theme;
}

const Theme& darkTheme() {
    static const Theme theme = makeDark();
    return theme;
}

void loadFonts() {
    static const bool loaded = [] {
        registerFontResource();
        for (const char* file : {"Regular", "Bold", "Semibold", "Italic"}) {
            QFontDatabase::addApplicationFont(QStringLiteral(":/nuvat/fonts/Lato-%1.ttf").arg(QLatin1String(file)));
        }
        return true;
    }();
    Q_UNUSED(loaded);
}

QFont uiFont(double pixels, QFont::Weight weight) {
    QFont font(QStringLiteral("Lato"));
    font.setPixelSize(static_cast<int>(std::lround(pixels)));
    font.setWeight(weight);
    return font;
}

QString text(const std::string& text) {
    return QString::fromStdString(text);
}

QString shown(const std::string& plain) {
    QString out = QString::fromStdString(plain);
    out.replace(QStringLiteral(" %"), QStringLiteral("\u00A0%")); // never broken from its number
    const QString decimal = QLocale().decimalPoint();
    if (decimal == QLatin1String(".")) {
        return out;
    }
    for (qsizetype i = 1; i + 1 < out.size(); ++i) {
        if (out[i] == u'.' && out[i - 1].isDigit() && out[i + 1].isDigit()) {
            out.replace(i, 1, decimal);
        }
    }
    return out;
}

QString timeText(std::int64_t millis) {
    return QLocale(QLocale::English, QLocale::UnitedKingdom)
        .toString(QDateTime::fromMSecsSinceEpoch(millis), QStringLiteral("d MMMM yyyy, HH:mm"));
}

QString clockText(std::int64_t millis) {
    return QDateTime::fromMSecsSinceEpoch(millis).toString(QStringLiteral("HH:mm"));
}

} // namespace nuvat
