#include "theme/style.h"

#include <algorithm>
#include <QApplication>
#include <QFile>
#include <QIconEngine>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>

// Outside the namespace: the macro declares a function of the global one.
static void registerIconResource() {
    Q_INIT_RESOURCE(icons);
}

namespace nuvat {

namespace {

bool isDarkNow = false;

/// Draws one of our SVG icons in a colour, at the size that is asked for.
class SvgIconEngine : public QIconEngine {
public:
    SvgIconEngine(QByteArray svg, QColor colour) : m_svg(std::move(svg)), m_colour(std::move(colour)) {}
    void paint(QPainter* painter, const QRect& rect, QIcon::Mode mode, QIcon::State) override {
        QColor colour = m_colour;
        if (mode == QIcon::Disabled) {
            colour.setAlphaF(0.4F);
        }
        QByteArray svg = m_svg;
        svg.replace("currentColor", colour.name().toLatin1());
        QSvgRenderer renderer(svg);
        painter->save();
        painter->setOpacity(colour.alphaF());
        // Pads the icon on the right to keep it apart from the label.
        renderer.render(painter, QRect(rect.topLeft(), QSize(std::min(rect.width(), rect.height()), rect.height())));
        painter->restore();
    }
    QPixmap pixmap(const QSize& size, QIcon::Mode mode, QIcon::State state) override {
        QPixmap pixmap(size);
        pixmap.fill(Qt::transparent);
        QPainter painter(&pixmap);
        paint(&painter, QRect(QPoint(0, 0), size), mode, state);
        return pixmap;
    }
    QIconEngine* clone() const override { return new SvgIconEngine(*this); }

private:
    QByteArray m_svg;
    QColor m_colour;
};

QString styleSheet(const Theme& t) {
    QString sheet = QStringLiteral(R"(
* { font-family: Lato; }
QWidget { color: @ink; }
#window, #page { background: @paper; }
#card { background: @card; border: 1px solid @line; border-radius: 8px; }
#topBar { background: @card; border-bottom: 1px solid @line; }
#statusLine { background: @rail; border-top: 1px solid @line; }
#rail { background: @rail; border-right: 1px solid @line; }
#panel { background: @card; border-left: 1px solid @line; }
QLabel[kind="mute"] { color: @mute; }
QLabel[kind="small"] { color: @mute; font-size: 12px; }
QLabel[kind="title"] { font-size: 15px; font-weight: bold; }
QLabel[kind="heading"] { font-weight: bold; }
QPushButton, QToolButton { background: @card; border: 1px solid @line; border-radius: 6px; padding: 5px 11px; min-height: 16px; }
QPushButton:hover, QToolButton:hover { border-color: @mute; }
QPushButton:focus, QToolButton:focus { border-color: @plum; }
QPushButton:pressed, QToolButton:pressed { background: @field; }
QPushButton:disabled, QToolButton:disabled { color: @mute; }
QPushButton:checked, QToolButton:checked { background: @plumSoft; border-color: @plum; font-weight: bold; }
QPushButton[kind="primary"] { background: @plum; color: @onPlum; border-color: @plum; font-weight: bold; }
QPushButton[kind="primary"]:hover { border-color: @ink; }
QPushButton[kind="primary"]:disabled { background: @field; color: @mute; border-color: @line; }
QPushButton[kind="dashed"] { border-style: dashed; color: @mute; background: transparent; }
QPushButton[kind="plain"] { border: none; background: transparent; padding: 4px; }
QPushButton[kind="tool"] { padding: 5px 6px; }
QPushButton[kind="tool"]::menu-indicator { subcontrol-position: right center; subcontrol-origin: padding; right: 6px; }
QPushButton[kind="normal"]::menu-indicator, QPushButton[kind="chip"]::menu-indicator { subcontrol-position: right center; subcontrol-origin: padding; right: 7px; }
QPushButton[kind="chip"] { padding: 5px 24px 5px 12px; }
QFileDialog QToolButton { padding: 2px; min-height: 0px; }
QToolButton::menu-indicator { image: none; width: 0px; }
QPushButton[kind="option"] { border: none; background: transparent; padding: 0px 14px 0px 0px; text-align: left; font-size: 12px; color: @mute; }
QPushButton[kind="option"]:hover, QPushButton[kind="option"]:focus { color: @plum; }
QPushButton[kind="option"]::menu-indicator { subcontrol-position: right center; subcontrol-origin: padding; right: 0px; }
QPushButton[kind="fold"] { border: none; background: transparent; padding: 2px 0px; text-align: left; font-weight: bold; outline: none; }
QPushButton[kind="fold"]:checked { background: transparent; }
QPushButton[kind="fold"]:focus { color: @plum; }
QPushButton[kind="segment"] { border-radius: 0px; border-left-width: 0px; padding: 2px 7px; font-size: 12px; }
QPushButton[kind="segment"][place="first"] { border-left-width: 1px; border-top-left-radius: 6px; border-bottom-left-radius: 6px; }
QPushButton[kind="segment"][place="last"] { border-top-right-radius: 6px; border-bottom-right-radius: 6px; }
QPushButton[kind="segment"]:checked { background: @plumSoft; border-color: @line; color: @plum; }
QPushButton[kind="segment"]:focus { border-color: @plum; border-left-width: 1px; }
#line { background: @line; border: none; }
QLineEdit[kind="compact"] { padding: 0px 6px; }
QLineEdit[isWrong="true"] { border-color: @brick; color: @brick; }
QLineEdit, QPlainTextEdit { background: @card; border: 1px solid @line; border-radius: 6px; padding: 4px 8px; selection-background-color: @plum; selection-color: @onPlum; }
QLineEdit:disabled { background: @field; color: @mute; }
QLineEdit:focus, QPlainTextEdit:focus { border-color: @plum; }
QLineEdit#finder { background: @field; }
QTableView QLineEdit { border-radius: 0px; padding: 0px 4px; border-color: @plum; }
QTableView { background: @card; border: none; gridline-color: @line; outline: none; }
QHeaderView { background: @card; }
QHeaderView::section { background: @card; color: @mute; border: none; border-bottom: 1px solid @line; padding: 3px 8px; font-size: 12px; font-weight: bold; }
QTableCornerButton::section { background: @card; border: none; }
QScrollBar:vertical { background: transparent; width: 9px; margin: 0px; }
QScrollBar::handle:vertical { background: @line; border-radius: 4px; min-height: 28px; }
QScrollBar:horizontal { background: transparent; height: 9px; margin: 0px; }
QScrollBar::handle:horizontal { background: @line; border-radius: 4px; min-width: 28px; }
QScrollBar::handle:hover { background: @mute; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0px; height: 0px; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QMenu { background: @card; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 6px 26px 6px 10px; border-radius: 4px; }
QMenu::item:selected { background: @plumSoft; }
QMenu::item:disabled { color: @mute; }
QMenu::separator { height: 1px; background: @line; margin: 4px 6px; }
QListView { background: @card; border: 1px solid @line; border-radius: 6px; outline: none; padding: 3px; }
QListView::item { padding: 5px 8px; border-radius: 4px; }
QListView::item:selected { background: @plumSoft; color: @ink; }
QToolTip { background: @ink; color: @card; border: none; padding: 4px 8px; }
QDialog { background: @card; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
)");
    const std::pair<const char*, QColor> colours[]{
        {"@plumSoft", t.plumSoft}, {"@onPlum", t.onPlum}, {"@paper", t.paper}, {"@field", t.field},
        {"@card", t.card},         {"@rail", t.rail},     {"@mute", t.mute},   {"@plum", t.plum},
        {"@line", t.line},         {"@ink", t.ink},       {"@brick", t.brick}};
    for (const auto& [name, colour] : colours) {
        sheet.replace(QLatin1String(name), colour.name());
    }
    return sheet;
}

} // namespace

const Theme& theme() {
    return isDarkNow ? darkTheme() : lightTheme();
}

void setDark(bool isDark) {
    isDarkNow = isDark;
}

void applyStyle(QApplication& application) {
    registerIconResource();
    loadFonts();
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    const Theme& t = theme();
    QPalette palette;
    palette.setColor(QPalette::Window, t.paper);
    palette.setColor(QPalette::Base, t.card);
    palette.setColor(QPalette::AlternateBase, t.field);
    palette.setColor(QPalette::Text, t.ink);
    palette.setColor(QPalette::WindowText, t.ink);
    palette.setColor(QPalette::Button, t.card);
    palette.setColor(QPalette::ButtonText, t.ink);
    palette.setColor(QPalette::Highlight, t.plumSoft);
    palette.setColor(QPalette::HighlightedText, t.ink);
    palette.setColor(QPalette::PlaceholderText, t.mute);
    palette.setColor(QPalette::ToolTipBase, t.ink);
    palette.setColor(QPalette::ToolTipText, t.card);
    application.setPalette(palette);
    application.setFont(uiFont(13));
    application.setStyleSheet(styleSheet(t));
}

QIcon icon(const QString& name, const QColor& colour) {
    QFile file(QStringLiteral(":/nuvat/icons/%1.svg").arg(name));
    if (!file.open(QIODevice::ReadOnly)) {
        return {};
    }
    return QIcon(new SvgIconEngine(file.readAll(), colour));
}

} // namespace nuvat
