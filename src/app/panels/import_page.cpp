#include "panels/import_page.h"

#include "nuvat/core/base/number.h"
#include "nuvat/workflow/plate_recipe.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
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
        if (m_import->isRunList) {
            drawRuns(painter, low, high);
            return;
        }
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
    /// As many columns of runs as have room, each with its name.
    void drawRuns(QPainter& painter, double low, double high) const {
        constexpr int kLine = 24;
        constexpr int kWide = 240;
        const int lines = std::max(1, height() / kLine);
        for (int run = 0; run < m_import->rows; ++run) {
            const QRect row(run / lines * kWide, run % lines * kLine, kWide - 14, kLine);
            const auto i = static_cast<std::size_t>(run);
            painter.setPen(theme().mute);
            painter.drawText(QRect(row.left(), row.top(), 30, kLine), Qt::AlignVCenter, QString::number(run + 1));
            painter.setPen(theme().ink);
            painter.drawText(
                QRect(row.left() + 32, row.top(), row.width() - 112, kLine), Qt::AlignVCenter,
                painter.fontMetrics().elidedText(text(m_import->names.at(i)), Qt::ElideRight, row.width() - 114));
            drawWell(painter, QRectF(row.right() - 74, row.top() + 1.5, 74, kLine - 3), m_import->wells.at(i), low,
                     high);
        }
    }

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
        // Spreadsheets keep all digits of a double, whatever a cell shows.
        const QString whole = text(well.text);
        const bool fits = painter.fontMetrics().horizontalAdvance(whole) <= area.width() - 4;
        painter.drawText(area, Qt::AlignCenter, fits ? whole : shown(formatFigures(*well.value, 4)));
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
    makeChoices(words, head);
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
        auto* label = addScrollingText(*card, QString::fromLatin1(name));
        bottom->addWidget(card, 1);
        return label;
    };
    m_headings = addCard(tr("Lines above the plate"), "importHeadings");
    m_warnings = addCard(tr("To look at"), "importWarnings");
    outer->addLayout(bottom, 3);
}

void ImportPage::makeChoices(QVBoxLayout* layout, QWidget* parent) {
    const auto makeRow = [&](QWidget*& row) {
        row = new QWidget(parent);
        auto* line = new QHBoxLayout(row);
        line->setContentsMargins(0, 2, 0, 0);
        line->setSpacing(7);
        layout->addWidget(row);
        return line;
    };
    auto* read = makeRow(m_readRow);
    m_read = new Choice(m_readRow);
    m_read->setObjectName(QStringLiteral("importRead"));
    m_read->setAccessibleName(tr("Read that is shown"));
    m_name = makeField(QStringLiteral("importReadName"), 110, m_readRow);
    m_name->setAccessibleName(tr("Name of the read"));
    m_name->setPlaceholderText(tr("450 nm"));
    m_take = new Switch(m_readRow);
    m_take->setObjectName(QStringLiteral("importTake"));
    m_take->setAccessibleName(tr("Import this read"));
    read->addWidget(m_read);
    read->addWidget(makeLabel(tr("Read name"), "mute", m_readRow));
    read->addWidget(m_name);
    read->addSpacing(8);
    read->addWidget(m_take);
    m_takeWord = makeLabel(tr("Import this read"), "mute", m_readRow);
    read->addWidget(m_takeWord);
    read->addStretch();
    auto* target = makeRow(m_targetRow);
    m_target = new Choice(m_targetRow);
    m_target->setObjectName(QStringLiteral("importTarget"));
    m_target->setAccessibleName(tr("Where it goes"));
    target->addWidget(makeLabel(tr("Goes to"), "mute", m_targetRow));
    target->addWidget(m_target);
    target->addStretch();
    connect(m_read, &QComboBox::activated, this, &ImportPage::showRead);
    connect(m_take, &QAbstractButton::clicked, this, [this](bool isOn) {
        m_isTaken[static_cast<std::size_t>(m_read->currentIndex())] = isOn;
        m_accept->setEnabled(std::find(m_isTaken.begin(), m_isTaken.end(), true) != m_isTaken.end());
    });
    connect(m_name, &QLineEdit::textEdited, this, [this](const QString& typed) {
        m_reads[static_cast<std::size_t>(m_read->currentIndex())].readName = typed.trimmed().toStdString();
    });
}

/// The carriers that have the size of what was read, and a new one. A file that follows another of the same drop is of
/// another plate where its read is there already; else it is read anew in the place of what was there.
void ImportPage::fillTargets(const Batch* batch, int carrier, bool follows) {
    m_target->clear();
    m_targets.clear();
    const PlateImport& first = m_reads.front();
    const CarrierKind kind = first.isRunList ? CarrierKind::RunList : CarrierKind::Plate;
    if (batch != nullptr && !batch->readings.empty()) {
        for (const auto& [number, one] : batch->carriers) {
            const bool hasSize = one.rows == first.rows && one.columns == first.columns;
            if (one.kind == kind &&
                (hasSize || !isLaidOut(*batch, number))) { // one that is not laid out takes the size of what is read
                m_targets.push_back(number);
                m_target->addItem(text(carrierName(batch->carriers, number)));
            }
        }
    } else if (batch != nullptr && batch->carriers.size() > 1) {
        for (const auto& [number, one] : batch->carriers) {
            m_targets.push_back(number);
            m_target->addItem(text(carrierName(batch->carriers, number)));
        }
    }
    m_targets.push_back(0);
    m_target->addItem(kind == CarrierKind::RunList ? tr("a new run list") : tr("a new plate"));
    const auto shown = std::find(m_targets.begin(), m_targets.end(), carrier);
    const bool isThere = batch != nullptr && batch->reading(carrier, first.readName) != nullptr;
    const bool isNew = follows && isThere;
    m_target->setCurrentIndex(
        static_cast<int>((isNew || shown == m_targets.end() ? m_targets.end() - 1 : shown) - m_targets.begin()));
    m_targetRow->setVisible(m_targets.size() > 1 || (batch != nullptr && !batch->readings.empty()));
}

int ImportPage::target() const {
    return m_targets.at(static_cast<std::size_t>(m_target->currentIndex()));
}

PlateRecipe ImportPage::corrected(const PlateRecipe& recipe) const {
    return correctedRecipe(recipe, m_keys, m_reads, m_isTaken);
}

std::vector<std::vector<PlateImport>> ImportPage::plates() const {
    std::vector<std::vector<PlateImport>> out;
    for (std::size_t i = 0; i < m_reads.size(); ++i) {
        if (!m_isTaken[i]) {
            continue;
        }
        const auto partsFrom = [&](const PlateImport& one) { // a read of the same name, or a plate of another size
            return one.readName == m_reads[i].readName || one.rows != m_reads[i].rows ||
                   one.columns != m_reads[i].columns || one.isRunList != m_reads[i].isRunList;
        };
        if (out.empty() || std::any_of(out.back().begin(), out.back().end(), partsFrom)) {
            out.emplace_back();
        }
        out.back().push_back(m_reads[i]);
    }
    return out;
}

void ImportPage::show(std::vector<PlateImport> reads, const Batch* batch, int carrier, bool follows, int waiting) {
    m_reads = std::move(reads);
    m_keys = readKeys(m_reads);
    m_isTaken = applyRecipe(batch == nullptr ? PlateRecipe{} : batch->method.plateRecipe, m_reads);
    m_read->clear();
    for (std::size_t i = 0; i < m_reads.size(); ++i) {
        m_read->addItem(tr("Read %1 of %2").arg(i + 1).arg(m_reads.size()));
    }
    m_read->setVisible(m_reads.size() > 1);
    m_take->setVisible(m_reads.size() > 1);
    m_takeWord->setVisible(m_reads.size() > 1);
    fillTargets(batch, carrier, follows);
    QString note = batch != nullptr
                       ? tr("Nothing is changed until you import it. Layout and method of the open batch stay.")
                       : tr("Nothing is made until you import it; then a new batch begins with it.");
    if (const auto count = plates().size(); count > 1) {
        note += QStringLiteral(" ") + tr("It holds %1 plates; each after the first is a new one.").arg(count);
    }
    if (waiting > 0) {
        note += QStringLiteral(" ") +
                (waiting == 1 ? tr("One more file follows.") : tr("%1 more files follow.").arg(waiting));
    }
    m_note->setText(note);
    m_accept->setEnabled(true);
    showRead();
    m_accept->setFocus();
}

void ImportPage::showRead() {
    const auto index = static_cast<std::size_t>(std::max(m_read->currentIndex(), 0));
    const PlateImport& read = m_reads.at(index);
    m_plate->setImport(&read);
    m_name->setText(text(read.readName));
    m_take->setChecked(m_isTaken[index]);
    m_title->setText(tr("Understood of %1").arg(text(read.source)));
    m_understood->setText(text(read.understood()) +
                          tr("; %1 of %2 %3 with a number")
                              .arg(read.numberCount())
                              .arg(read.wells.size())
                              .arg(read.isRunList ? tr("runs") : tr("wells")) +
                          (read.readName.empty() ? QString() : tr("; read at %1").arg(text(read.readName))));
    QStringList headings;
    for (const std::string& line : read.headings) {
        headings << text(line);
    }
    m_headings->setText(headings.isEmpty() ? tr("none") : headings.join(u'\n'));
    QStringList warnings;
    for (const ImportWarning& warning : read.warnings) {
        warnings << text(warning.message);
    }
    m_warnings->setText(!warnings.isEmpty() ? warnings.join(u'\n')
                        : read.isRunList    ? tr("Nothing: every value of the list was understood.")
                                            : tr("Nothing: every cell of the plate was understood."));
}

} // namespace nuvat
