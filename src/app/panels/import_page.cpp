#include "panels/import_page.h"

#include "nuvat/workflow/plate_recipe.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/file_legend.h"
#include "widgets/file_view.h"
#include "widgets/import_plate.h"

#include <algorithm>
#include <array>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr std::array<char, 4> kSeparators{',', ';', '\t', ' '};
constexpr std::array<char, 2> kDecimals{'.', ','};

void showAll(const std::vector<QWidget*>& row, bool isShown) {
    for (QWidget* widget : row) {
        widget->setVisible(isShown);
    }
}

bool overlap(const CellBlock& a, const CellBlock& b) {
    return a.sheet == b.sheet && a.line < b.line + b.rows && b.line < a.line + a.rows &&
           a.column < b.column + b.columns && b.column < a.column + a.columns;
}

} // namespace

ImportPage::ImportPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("page"));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeHead());
    auto* below = new QHBoxLayout;
    below->setSpacing(frame::kGap);
    below->addWidget(makeFile(), 1);
    below->addWidget(makeSide());
    outer->addLayout(below, 1);
    connect(m_view, &FileView::markChanged, this, &ImportPage::showMarked);
    connect(m_view, &FileView::taken, m_mark, &QPushButton::click);
    connect(m_view, &FileView::readClicked, this, [this](std::size_t read) {
        m_read->setCurrentIndex(static_cast<int>(read));
        showRead();
    });
}

QWidget* ImportPage::makeHead() {
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
    return head;
}

QWidget* ImportPage::makeFile() {
    auto* card = new Card({}, this);
    m_view = new FileView(card);
    card->body()->addWidget(m_view, 1);
    card->body()->addWidget(new FileLegend(card));
    return card;
}

QWidget* ImportPage::makeSide() {
    auto* side = new QWidget(this);
    side->setFixedWidth(frame::kPanel);
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins({});
    column->setSpacing(frame::kGap);
    auto* card = new Card(tr("Read as"), side);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(7);
    grid->setColumnStretch(1, 1);
    makeReadRows(grid, card);
    makeCutRows(grid, card);
    card->body()->addLayout(grid);
    m_plate = new ImportPlate(card);
    card->body()->addSpacing(4);
    card->body()->addWidget(m_plate);
    column->addWidget(card);
    auto* look = new Card(tr("To look at"), side);
    m_warnings = addScrollingText(*look, QStringLiteral("importWarnings"));
    column->addWidget(look, 1);
    return side;
}

void ImportPage::makeReadRows(QGridLayout* grid, QWidget* parent) {
    const auto title = [&](const QString& words) {
        auto* label = makeLabel(words, "mute", parent);
        grid->addWidget(label, grid->rowCount(), 0);
        return label;
    };
    const auto choice = [&](const QString& name, const QString& accessible) {
        auto* made = new Choice(parent);
        made->setObjectName(name);
        made->setAccessibleName(accessible);
        return made;
    };
    auto* read = title(tr("Read"));
    m_read = choice(QStringLiteral("importRead"), tr("Read that is shown"));
    m_take = new Switch(parent);
    m_take->setObjectName(QStringLiteral("importTake"));
    m_take->setAccessibleName(tr("Import this read"));
    auto* takeWord = makeLabel(tr("import it"), "mute", parent);
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    line->addWidget(m_read);
    line->addStretch();
    line->addWidget(m_take);
    line->addWidget(takeWord);
    grid->addLayout(line, grid->rowCount() - 1, 1);
    m_readRow = {read, m_read, m_take, takeWord};
    auto* name = title(tr("Read name"));
    m_name = makeField(QStringLiteral("importReadName"), 84, parent);
    m_name->setAccessibleName(tr("Name of the read"));
    m_name->setPlaceholderText(tr("450 nm"));
    m_fromCell = makeButton(tr("Use cell"), "small", QStringLiteral("importNameFromCell"), parent);
    m_fromCell->setToolTip(tr("Calls the read as the marked cell says"));
    auto* named = new QHBoxLayout;
    named->setSpacing(6);
    named->addWidget(m_name, 1);
    named->addWidget(m_fromCell);
    grid->addLayout(named, grid->rowCount() - 1, 1);
    auto* unit = title(tr("Unit"));
    m_unit = makeField(QStringLiteral("importUnit"), 84, parent);
    m_unit->setAccessibleName(tr("Unit of the values"));
    m_unit->setPlaceholderText(tr("not said"));
    m_unit->setToolTip(tr("Goes behind the name of the response, as long as that has no other name"));
    grid->addWidget(m_unit, grid->rowCount() - 1, 1);
    m_nameRow = {name, m_name, m_fromCell, unit, m_unit};
    auto* target = title(tr("Goes to"));
    m_target = choice(QStringLiteral("importTarget"), tr("Where it goes"));
    grid->addWidget(m_target, grid->rowCount() - 1, 1);
    m_targetRow = {target, m_target};
    connect(m_read, &QComboBox::activated, this, &ImportPage::showRead);
    connect(m_take, &QAbstractButton::clicked, this, [this](bool isOn) {
        m_isTaken[shownRead()] = isOn;
        m_accept->setEnabled(std::ranges::find(m_isTaken, true) != m_isTaken.end());
    });
    connect(m_name, &QLineEdit::textEdited, this,
            [this](const QString& typed) { m_reads[shownRead()].readName = typed.trimmed().toStdString(); });
    connect(m_unit, &QLineEdit::textEdited, this,
            [this](const QString& typed) { m_reads[shownRead()].unit = typed.trimmed().toStdString(); });
    connect(m_fromCell, &QPushButton::clicked, this, [this] {
        m_name->setText(m_view->markedText());
        m_reads[shownRead()].readName = m_view->markedText().toStdString();
    });
}

void ImportPage::makeCutRows(QGridLayout* grid, QWidget* parent) {
    const auto row = [&](const QString& words, const QString& name, const QStringList& items) {
        auto* label = makeLabel(words, "mute", parent);
        auto* choice = new Choice(parent);
        choice->setObjectName(name);
        choice->setAccessibleName(words);
        choice->addItems(items);
        grid->addWidget(label, grid->rowCount(), 0);
        grid->addWidget(choice, grid->rowCount() - 1, 1, Qt::AlignLeft);
        m_notationRow.push_back(label);
        m_notationRow.push_back(choice);
        return choice;
    };
    m_separator = row(tr("Cells parted by"), QStringLiteral("importSeparator"),
                      {tr("comma"), tr("semicolon"), tr("tab"), tr("blanks")});
    m_decimal = row(tr("Decimal sign"), QStringLiteral("importDecimal"), {tr("point"), tr("comma")});
    connect(m_separator, &QComboBox::activated, this, [this](int index) {
        m_cut.notation.separator = kSeparators.at(static_cast<std::size_t>(index));
        readAgain();
    });
    connect(m_decimal, &QComboBox::activated, this, [this](int index) {
        m_cut.notation.decimal = kDecimals.at(static_cast<std::size_t>(index));
        readAgain();
    });
    auto* label = makeLabel(tr("Wells"), "mute", parent);
    m_wells = makeLabel({}, "value", parent);
    m_wells->setObjectName(QStringLiteral("importWells"));
    m_wells->setWordWrap(true);
    grid->addWidget(label, grid->rowCount(), 0);
    grid->addWidget(m_wells, grid->rowCount() - 1, 1);
    m_mark = makeButton(tr("Wells as marked"), "small", QStringLiteral("importMark"), parent);
    m_mark->setToolTip(tr("The marked cells are the wells of a plate (Enter in the file); one column is a list"));
    m_asFound = makeButton(tr("As found"), "small", QStringLiteral("importAsFound"), parent);
    m_asFound->setToolTip(tr("Reads the file as if nothing had been corrected"));
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(m_mark);
    buttons->addWidget(m_asFound);
    buttons->addStretch();
    grid->addLayout(buttons, grid->rowCount(), 1);
    connect(m_mark, &QPushButton::clicked, this, &ImportPage::markWells);
    connect(m_asFound, &QPushButton::clicked, this, [this] {
        m_cut = {};
        readAgain();
    });
}

/// The carriers that have the size of what was read, and a new one. A file that follows another of the same drop is of
/// another plate where its read is there already; else it is read anew in the place of what was there.
void ImportPage::fillTargets() {
    m_target->clear();
    m_targets.clear();
    showAll(m_targetRow, false);
    if (m_reads.empty()) {
        return;
    }
    const PlateImport& first = m_reads.front();
    const CarrierKind kind = first.isRunList ? CarrierKind::RunList : CarrierKind::Plate;
    if (m_batch && (!m_batch->readings.empty() || m_batch->carriers.size() > 1)) {
        for (const auto& [number, one] : m_batch->carriers) {
            const bool hasSize = one.rows == first.rows && one.columns == first.columns;
            // One that is not laid out takes the size of what is read.
            const bool fits = one.kind == kind && (hasSize || !isLaidOut(*m_batch, number));
            if (m_batch->readings.empty() || fits) {
                m_targets.push_back(number);
                m_target->addItem(text(carrierName(m_batch->carriers, number)));
            }
        }
    }
    m_targets.push_back(0);
    m_target->addItem(kind == CarrierKind::RunList ? tr("a new run list") : tr("a new plate"));
    const auto shown = std::find(m_targets.begin(), m_targets.end(), m_carrier);
    const bool isThere = m_batch && m_batch->reading(m_carrier, first.readName) != nullptr;
    const bool isNew = m_follows && isThere;
    m_target->setCurrentIndex(
        static_cast<int>((isNew || shown == m_targets.end() ? m_targets.end() - 1 : shown) - m_targets.begin()));
    showAll(m_targetRow, m_targets.size() > 1 || (m_batch && !m_batch->readings.empty()));
}

int ImportPage::target() const {
    return m_targets.at(static_cast<std::size_t>(m_target->currentIndex()));
}

PlateRecipe ImportPage::corrected() const {
    return correctedRecipe(m_recipe, m_keys, m_reads, m_isTaken, m_offer.isPasted ? cutOf(m_recipe) : m_cut);
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

void ImportPage::show(ImportOffer offer, const Batch* batch, int carrier, bool follows, int waiting) {
    m_batch = batch == nullptr ? std::nullopt : std::optional(*batch);
    m_recipe = batch == nullptr ? PlateRecipe{} : batch->method.plateRecipe;
    m_carrier = carrier;
    m_follows = follows;
    m_waiting = waiting;
    m_offer = std::move(offer);
    m_cut = m_offer.cut;
    m_reads = m_offer.reads;
    m_file = m_offer.cells;
    m_error = m_offer.error;
    fillReads();
    m_accept->isEnabled() ? m_accept->setFocus() : m_view->setFocus();
}

void ImportPage::fillReads() {
    m_keys = readKeys(m_reads);
    m_isTaken = applyRecipe(m_recipe, m_reads);
    m_read->clear();
    for (std::size_t i = 0; i < m_reads.size(); ++i) {
        m_read->addItem(tr("%1 of %2").arg(i + 1).arg(m_reads.size()));
    }
    showAll(m_readRow, m_reads.size() > 1);
    showAll(m_nameRow, !m_reads.empty());
    m_accept->setEnabled(!m_reads.empty());
    fillTargets();
    sayNote();
    showRead();
}

void ImportPage::sayNote() {
    QString note = m_batch ? tr("Nothing is changed until you import it. Layout and method of the open batch stay.")
                           : tr("Nothing is made until you import it; then a new batch begins with it.");
    if (const auto count = plates().size(); count > 1) {
        note += QStringLiteral(" ") + tr("It holds %1 plates; each after the first is a new one.").arg(count);
    }
    if (m_waiting > 0) {
        note += QStringLiteral(" ") +
                (m_waiting == 1 ? tr("One more file follows.") : tr("%1 more files follow.").arg(m_waiting));
    }
    m_note->setText(note);
}

std::size_t ImportPage::shownRead() const {
    return static_cast<std::size_t>(std::max(m_read->currentIndex(), 0));
}

std::shared_ptr<const PlateFile> ImportPage::shownFile() const {
    return m_reads.empty() ? m_file : m_reads.at(shownRead()).file;
}

void ImportPage::showRead() {
    const auto index = shownRead();
    const PlateImport* read = m_reads.empty() ? nullptr : &m_reads.at(index);
    m_view->show(shownFile(), m_reads, index);
    m_plate->setImport(read);
    m_name->setText(read == nullptr ? QString() : text(read->readName));
    m_unit->setText(read == nullptr ? QString() : text(read->unit));
    m_take->setChecked(read != nullptr && m_isTaken[index]);
    m_title->setText(read == nullptr
                         ? tr("No plate was found in %1").arg(m_file == nullptr ? QString() : text(m_file->name))
                         : tr("Understood of %1").arg(text(read->source)));
    m_understood->setText(
        read == nullptr ? tr("Say how it is written, or mark the wells in it.")
                        : text(read->understood()) +
                              tr("; %1 of %2 %3 with a number")
                                  .arg(read->numberCount())
                                  .arg(read->wells.size())
                                  .arg(read->isRunList ? tr("runs") : tr("wells")) +
                              (read->readName.empty() ? QString() : tr("; read at %1").arg(text(read->readName))));
    m_warnings->setText(toLookAt());
    showCut();
    showMarked();
}

QString ImportPage::toLookAt() const {
    if (m_error) {
        return text(m_error->text());
    }
    const PlateImport& read = m_reads.at(shownRead());
    QStringList warnings;
    for (const ImportWarning& warning : read.warnings) {
        warnings << text(warning.message);
    }
    return !warnings.isEmpty() ? warnings.join(u'\n')
           : read.isRunList    ? tr("Nothing: every value of the list was understood.")
                               : tr("Nothing: every cell of the plate was understood.");
}

void ImportPage::showCut() {
    const auto file = shownFile();
    const bool isText = file != nullptr && !file->text.text.empty();
    showAll(m_notationRow, isText);
    if (isText) {
        const auto separator = std::ranges::find(kSeparators, file->table.separator);
        const auto decimal = std::ranges::find(kDecimals, file->table.numbers.decimal);
        m_separator->setCurrentIndex(static_cast<int>(separator - kSeparators.begin()));
        m_decimal->setCurrentIndex(static_cast<int>(decimal - kDecimals.begin()));
    }
    m_asFound->setVisible(m_cut != PlateCut{});
}

void ImportPage::showMarked() {
    const auto marked = m_view->marked();
    const bool isMany = marked && marked->rows * marked->columns > 1;
    const auto place = [](const CellBlock& block) {
        return tr("line %1 to %2, cell %3 to %4")
            .arg(block.line)
            .arg(block.line + block.rows - 1)
            .arg(block.column)
            .arg(block.column + block.columns - 1);
    };
    m_wells->setText(isMany                     ? tr("marked: %1").arg(place(*marked))
                     : m_reads.empty()          ? tr("none")
                     : m_cut.blocks.empty()     ? tr("found; drag over others to mark them")
                     : m_cut.blocks.size() == 1 ? place(m_cut.blocks.front())
                                                : tr("%1 blocks of cells as marked").arg(m_cut.blocks.size()));
    m_mark->setEnabled(isMany);
    m_fromCell->setEnabled(marked && !isMany && !m_reads.empty() && !m_view->markedText().isEmpty());
}

/// The marked cells beside those that were marked before; one that lies over another takes its place.
void ImportPage::markWells() {
    const auto marked = m_view->marked();
    if (!marked || marked->rows * marked->columns < 2) {
        return;
    }
    std::erase_if(m_cut.blocks, [&](const CellBlock& block) { return overlap(block, *marked); });
    m_cut.blocks.push_back(*marked);
    std::ranges::stable_sort(m_cut.blocks, {}, &CellBlock::line);
    readAgain();
}

/// The files that reads stand in, sheet by sheet; the first one is the file where it is a text.
std::vector<std::shared_ptr<const PlateFile>> ImportPage::files() const {
    std::vector<std::shared_ptr<const PlateFile>> out;
    for (const PlateImport& read : m_offer.reads) {
        if (std::ranges::find(out, read.file) == out.end()) {
            out.push_back(read.file);
        }
    }
    if (m_offer.cells != nullptr) {
        out.push_back(m_offer.cells);
    }
    return out;
}

Result<std::vector<PlateImport>> ImportPage::readSheets() const {
    if (m_cut.blocks.empty() && m_offer.cut.blocks.empty()) {
        return m_offer.error ? Result<std::vector<PlateImport>>(tl::unexpected(*m_offer.error)) : m_offer.reads;
    }
    std::vector<PlateImport> out;
    for (const auto& file : files()) {
        const bool hasBlocks =
            std::ranges::any_of(m_cut.blocks, [&](const CellBlock& block) { return block.sheet == file->table.sheet; });
        if (!hasBlocks && !m_cut.blocks.empty()) {
            continue;
        }
        auto reads = readPlates(file, m_cut);
        if (!reads) {
            return reads;
        }
        std::ranges::move(*reads, std::back_inserter(out));
    }
    for (PlateImport& read : out) {
        read.source = m_offer.reads.empty() ? read.source : m_offer.reads.front().source;
    }
    return out;
}

void ImportPage::readAgain() {
    m_recipe = corrected(); // names that were typed stay with their reads
    const auto given = files().front();
    const auto again = cutAgain(given, m_cut.notation); // a sheet stays as it is
    m_file = again ? *again : given;
    Result<std::vector<PlateImport>> reads = !again ? Result<std::vector<PlateImport>>(tl::unexpected(again.error()))
                                             : given->text.text.empty()
                                                 ? readSheets()
                                                 : readPlates(m_file, PlateCut{{}, m_cut.blocks});
    m_error = reads ? std::nullopt : std::optional(reads.error());
    m_reads = reads ? std::move(*reads) : std::vector<PlateImport>();
    fillReads();
}

} // namespace nuvat
