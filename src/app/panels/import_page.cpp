#include "panels/import_page.h"

#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QHBoxLayout>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

/// The plate as it was understood, wells as they stand in the file.
class ImportPlate : public QWidget {
public:
    using QWidget::QWidget;
    void setImport(const PlateImport* import) {
        m_import = import;
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override {
        if (m_import == nullptr || m_import->rows == 0) {
            return;
        }
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        const double w = (width() - 26.0) / m_import->columns;
        const double h = (height() - 22.0) / m_import->rows;
        double low = 1e300;
        double high = -1e300;
        for (const PlateCell& well : m_import->wells) {
            if (well.value) {
                low = std::min(low, *well.value);
                high = std::max(high, *well.value);
            }
        }
        painter.setFont(uiFont(12));
        painter.setPen(t.mute);
        for (int column = 0; column < m_import->columns; ++column) {
            painter.drawText(QRectF(26 + column * w, 0, w, 22), Qt::AlignCenter, QString::number(column + 1));
        }
        for (int row = 0; row < m_import->rows; ++row) {
            painter.setPen(t.mute);
            painter.drawText(QRectF(0, 22 + row * h, 24, h), Qt::AlignCenter, text(rowLetters(row)));
            for (int column = 0; column < m_import->columns; ++column) {
                drawWell(painter, QRectF(26 + column * w, 22 + row * h, w, h).adjusted(1.5, 1.5, -1.5, -1.5),
                         m_import->wells[static_cast<std::size_t>(row * m_import->columns + column)], low, high);
            }
        }
    }

private:
    static void drawWell(QPainter& painter, const QRectF& area, const PlateCell& well, double low, double high) {
        const Theme& t = theme();
        if (!well.value) {
            painter.setPen(well.text.empty() ? QPen(t.line, 1) : QPen(t.brick, 1, Qt::DashLine));
            painter.setBrush(t.card);
            painter.drawRoundedRect(area, 5, 5);
            painter.setPen(t.brick);
            painter.drawText(area, Qt::AlignCenter, text(well.text));
            return;
        }
        const QColor fill = t.heat(high > low ? (*well.value - low) / (high - low) : 0.5);
        painter.setPen(Qt::NoPen);
        painter.setBrush(fill);
        painter.drawRoundedRect(area, 5, 5);
        painter.setPen(t.inkOn(fill));
        painter.drawText(area, Qt::AlignCenter, text(well.text));
    }

    const PlateImport* m_import = nullptr;
};

ImportPage::ImportPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("page"));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    auto* head = new Card({}, this);
    auto* row = new QHBoxLayout;
    auto* words = new QVBoxLayout;
    m_title = makeLabel({}, "title", head);
    m_title->setObjectName(QStringLiteral("importTitle"));
    m_understood = makeLabel({}, "value", head);
    m_understood->setObjectName(QStringLiteral("importUnderstood"));
    m_note = makeLabel({}, "mute", head);
    words->addWidget(m_title);
    words->addWidget(m_understood);
    words->addWidget(m_note);
    row->addLayout(words, 1);
    auto* reject = makeButton(tr("Leave it"), "normal", QStringLiteral("importReject"), head);
    m_accept = makeButton(tr("Import"), "primary", QStringLiteral("importAccept"), head);
    connect(reject, &QPushButton::clicked, this, &ImportPage::rejected);
    connect(m_accept, &QPushButton::clicked, this, &ImportPage::accepted);
    row->addWidget(reject);
    row->addWidget(m_accept);
    head->body()->addLayout(row);
    outer->addWidget(head);

    auto* plateCard = new Card({}, this);
    m_plate = new ImportPlate(plateCard);
    m_plate->setMinimumHeight(240);
    plateCard->body()->addWidget(m_plate);
    outer->addWidget(plateCard, 6);

    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    const auto addCard = [&](const QString& title, const char* name) {
        auto* card = new Card(title, this);
        auto* scroll = new QScrollArea(card);
        scroll->setWidgetResizable(true);
        auto* label = makeLabel({}, "value", scroll);
        label->setObjectName(QString::fromLatin1(name));
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignTop | Qt::AlignLeft);
        scroll->setWidget(label);
        card->body()->addWidget(scroll);
        bottom->addWidget(card, 1);
        return label;
    };
    m_headings = addCard(tr("Lines above the plate"), "importHeadings");
    m_warnings = addCard(tr("To look at"), "importWarnings");
    outer->addLayout(bottom, 3);
}

void ImportPage::show(PlateImport import, bool hasBatch, int waiting) {
    m_import = std::move(import);
    m_plate->setImport(&m_import);
    m_title->setText(tr("Understood of %1").arg(text(m_import.source)));
    m_understood->setText(text(m_import.understood()) +
                          tr("; %1 of %2 wells with a number").arg(m_import.numberCount()).arg(m_import.wells.size()) +
                          (m_import.readName.empty() ? QString() : tr("; read at %1").arg(text(m_import.readName))));
    QString note = hasBatch ? tr("Nothing is changed until you import it. Layout and method of the open batch stay.")
                            : tr("Nothing is made until you import it; then a new batch begins with it.");
    if (waiting > 0) {
        note += QStringLiteral(" ") + tr("%n more file(s) follow.", nullptr, waiting);
    }
    m_note->setText(note);
    QStringList headings;
    for (const std::string& line : m_import.headings) {
        headings << text(line);
    }
    m_headings->setText(headings.isEmpty() ? tr("none") : headings.join(u'\n'));
    QStringList warnings;
    for (const ImportWarning& warning : m_import.warnings) {
        warnings << text(warning.message);
    }
    m_warnings->setText(warnings.isEmpty() ? tr("Nothing: every cell of the plate was understood.")
                                           : warnings.join(u'\n'));
    m_accept->setFocus();
}

} // namespace nuvat
