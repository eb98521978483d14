#include "panels/start_page.h"

#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/demo_tile.h"

#include <algorithm>
#include <cmath>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

namespace {

/// The way of the work as a picture: a plate, a curve, a result.
class WayPicture : public QWidget {
public:
    using QWidget::QWidget;
    QSize sizeHint() const override { return {620, 150}; }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const double mid = height() / 2.0;
        painter.setPen(Qt::NoPen);
        for (int row = 0; row < 6; ++row) {
            for (int column = 0; column < 8; ++column) {
                const double share = column < 2 ? (5 - row) / 5.0 : 0.25 + 0.5 * ((row * 5 + column * 3) % 7) / 7.0;
                painter.setBrush(t.heat(share));
                painter.drawRoundedRect(QRectF(4 + column * 19, mid - 57 + row * 19, 16, 16), 4, 4);
            }
        }
        const QRectF plot(232, mid - 57, 176, 112);
        painter.setPen(QPen(t.line, 1.5));
        painter.drawLine(plot.bottomLeft(), plot.bottomRight());
        painter.drawLine(plot.topLeft(), plot.bottomLeft());
        QPainterPath curve;
        for (int i = 0; i <= 60; ++i) {
            const double u = (i - 30) / 7.0;
            const QPointF at(plot.left() + 6 + i * 2.75, plot.top() + 8 + 96 / (1 + std::exp(-u)));
            if (i == 0) {
                curve.moveTo(at);
            } else {
                curve.lineTo(at);
            }
        }
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.plum, 2.4));
        painter.drawPath(curve);
        for (int i = 4; i <= 56; i += 13) {
            const double u = (i - 30) / 7.0;
            drawRoleShape(painter, QPointF(plot.left() + 6 + i * 2.75, plot.top() + 8 + 96 / (1 + std::exp(-u))), 4.5,
                          Role::Standard, t.plum);
        }
        for (int i = 0; i < 5; ++i) {
            const double y = mid - 46 + i * 23;
            painter.setPen(QPen(t.line, 1));
            painter.drawLine(QPointF(470, y + 11), QPointF(614, y + 11));
            drawRoleShape(painter, QPointF(478, y), 4, Role::Unknown, t.slate);
            painter.setPen(Qt::NoPen);
            painter.setBrush(t.field);
            painter.drawRoundedRect(QRectF(492, y - 3.5, 46 + (i * 17) % 24, 7), 3, 3);
            painter.setBrush(i == 3 ? t.saffronSoft : t.pineSoft);
            painter.drawRoundedRect(QRectF(582, y - 6, 30, 12), 3, 3);
        }
        painter.setPen(QPen(t.mute, 1.6));
        for (const double x : {186.0, 434.0}) {
            painter.drawLine(QPointF(x, mid), QPointF(x + 18, mid));
            painter.drawLine(QPointF(x + 13, mid - 5), QPointF(x + 18, mid));
            painter.drawLine(QPointF(x + 13, mid + 5), QPointF(x + 18, mid));
        }
    }
};

} // namespace

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("page"));
    auto* outer = new QVBoxLayout(this);
    outer->addStretch(2);
    auto* column = new QVBoxLayout;
    column->setSpacing(8);
    auto* title = makeLabel(tr("From instrument readings to reported concentrations"), "big", this);
    title->setFont(uiFont(24, QFont::Bold));
    title->setAlignment(Qt::AlignCenter);
    column->addWidget(title);
    auto* lead = makeLabel(
        tr("Open a batch, or import a plate, a list or runs. You can also drop files anywhere in this window."), "mute",
        this);
    lead->setAlignment(Qt::AlignCenter);
    column->addWidget(lead);
    column->addSpacing(14);
    column->addWidget(new WayPicture(this), 0, Qt::AlignHCenter);
    column->addSpacing(16);
    column->addLayout(makeButtons());
    column->addSpacing(10);
    column->addLayout(makeDemos());
    auto* keys = makeLabel(
        tr("Ctrl+I import · Ctrl+O open · Ctrl+N new · Ctrl+V paste a block · Ctrl+K find any action"), "small", this);
    keys->setAlignment(Qt::AlignCenter);
    column->addWidget(keys);
    column->addSpacing(14);
    column->addLayout(makeCards());
    outer->addLayout(column);
    outer->addStretch(3);
}

QLayout* StartPage::makeButtons() {
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(10);
    buttons->addStretch();
    const auto add = [&](const QString& what, const char* kind, const QString& name, const QString& picture,
                         auto signal) {
        auto* button = makeButton(what, kind, name, this);
        setPicture(button, picture, 18);
        button->setMinimumHeight(36);
        connect(button, &QPushButton::clicked, this, signal);
        buttons->addWidget(button);
    };
    add(tr("Import readings…"), "primary", QStringLiteral("startImport"), QStringLiteral("file-import"),
        &StartPage::importAsked);
    add(tr("Open a batch…"), "normal", QStringLiteral("startOpen"), QStringLiteral("folder-open"),
        &StartPage::openAsked);
    add(tr("New empty batch"), "normal", QStringLiteral("startNew"), QStringLiteral("file-plus"), &StartPage::newAsked);
    m_fromMethod = makeButton(tr("New batch from a method"), "normal", QStringLiteral("startFromMethod"), this);
    setPicture(m_fromMethod, QStringLiteral("flask-2"), 18);
    m_fromMethod->setMinimumHeight(36);
    buttons->addWidget(m_fromMethod);
    buttons->addStretch();
    return buttons;
}

void StartPage::setMethods(QMenu* methods) {
    m_fromMethod->setMenu(methods);
}

QLayout* StartPage::makeDemos() {
    constexpr int kAcross = 3;
    constexpr int kWidth = 912;
    auto* centred = new QHBoxLayout;
    auto* frame = new QWidget(this);
    frame->setMaximumWidth(kWidth);
    auto* grid = new QGridLayout(frame);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(8);
    auto* title = makeLabel(tr("Look around in a demo batch of Alderbrook, an invented laboratory"), "mute", frame);
    title->setAlignment(Qt::AlignCenter);
    grid->addWidget(title, 0, 0, 1, kAcross);
    int i = 0;
    for (const Demo& demo : demos()) {
        auto* tile = new DemoTile(demo, frame);
        connect(tile, &DemoTile::clicked, this, [this, name = demo.name] { Q_EMIT demoChosen(text(name)); });
        grid->addWidget(tile, 1 + i / kAcross, i % kAcross);
        ++i;
    }
    centred->addStretch();
    centred->addWidget(frame, 10);
    centred->addStretch();
    return centred;
}

QLayout* StartPage::makeCards() {
    auto* cards = new QHBoxLayout;
    cards->setSpacing(frame::kGap);
    cards->addStretch();
    const auto addCard = [&](const QString& fileTitle) {
        auto* card = new Card(fileTitle, this);
        card->setFixedWidth(420);
        card->hide();
        cards->addWidget(card, 0, Qt::AlignTop);
        return card;
    };
    Card* recent = addCard(tr("Lately open"));
    Card* unnamed = addCard(tr("Not saved under a name yet"));
    m_recent = new QVBoxLayout;
    recent->body()->addLayout(m_recent);
    m_recentCard = recent;
    m_unnamedArea = new QScrollArea(unnamed);
    m_unnamedArea->setWidgetResizable(true);
    m_unnamedArea->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_unnamedArea->setWidget(new QWidget(m_unnamedArea));
    m_unnamed = new QVBoxLayout(m_unnamedArea->widget());
    m_unnamed->setContentsMargins(0, 0, 0, 0);
    unnamed->body()->addWidget(m_unnamedArea);
    m_unnamedCard = unnamed;
    m_where = makeLabel({}, "small", unnamed);
    m_where->setWordWrap(true);
    unnamed->body()->addWidget(m_where);
    cards->addStretch();
    return cards;
}

void StartPage::fill(QVBoxLayout* list, const QList<std::pair<QString, QString>>& batches) {
    while (list->count() > 0) {
        QLayoutItem* item = list->takeAt(0);
        if (item->widget() != nullptr) {
            item->widget()->hide(); // it goes only when the events are handled
            item->widget()->deleteLater();
        }
        delete item;
    }
    for (const auto& [path, title] : batches) {
        auto* button = makeButton(title, "chip", {}, this);
        button->setToolTip(plainTip(path));
        connect(button, &QPushButton::clicked, this, [this, path] { Q_EMIT recentChosen(path); });
        list->addWidget(button);
    }
}

void StartPage::setRecent(const QList<std::pair<QString, QString>>& recent) {
    QList<std::pair<QString, QString>> named;
    for (const auto& [path, title] : recent) {
        named.append({path, title + QStringLiteral("   ") + QFileInfo(path).fileName()});
    }
    fill(m_recent, named);
    m_recentCard->setVisible(!recent.isEmpty());
}

void StartPage::setUnnamed(const QList<std::pair<QString, QString>>& unnamed, const QString& folder) {
    fill(m_unnamed, unnamed);
    // All of them can be reached, the first few at a glance.
    constexpr qsizetype kAtAGlance = 4;
    constexpr int kButton = 36;
    m_unnamedArea->setFixedHeight(static_cast<int>(std::min(unnamed.size(), kAtAGlance)) * kButton);
    m_where->setText(tr("Kept in %1; nothing in them is lost.").arg(folder));
    m_unnamedCard->setVisible(!unnamed.isEmpty());
}

} // namespace nuvat
