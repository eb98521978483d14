#include "panels/data_page.h"

#include "jobs/job.h"
#include "kinds/plate/plate_values.h"
#include "models/columns_model.h"
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/plate_effects.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/carrier_view.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"
#include "widgets/effects_picture.h"
#include "widgets/heat_scale.h"

#include <algorithm>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

namespace nuvat {

namespace {

/// Places of a reading whose text is no number.
std::vector<Place> unusablePlaces(const Reading& reading, const Grid& grid) {
    std::vector<Place> places;
    for (int row = 0; row < grid.rows; ++row) {
        for (int column = 0; column < grid.columns; ++column) {
            const ReadingWell& well = *grid.at(row, column);
            if (!well.value && !well.text.empty()) {
                places.push_back({row, column, reading.slot.carrier});
            }
        }
    }
    return places;
}

} // namespace

DataPage::DataPage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);

    outer->addLayout(makeTop());
    m_full = new QWidget(this);
    auto* full = new QVBoxLayout(m_full);
    full->setContentsMargins(0, 0, 0, 0);
    full->setSpacing(frame::kGap);
    auto* plateCard = new Card({}, this);
    m_plate = new CarrierView(workspace, ViewMode::HeatAndNumber, QStringLiteral("dataPlate"), plateCard);
    plateCard->body()->addWidget(m_plate);
    full->addWidget(plateCard, 7);

    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    auto* readingsCard = makeReadings();
    auto* factsCard = makeFacts();
    bottom->addWidget(readingsCard, 5);
    bottom->addWidget(factsCard, 3);
    constexpr int kBottom = 196;
    readingsCard->setFixedHeight(kBottom);
    factsCard->setFixedHeight(kBottom);
    full->addLayout(bottom);
    outer->addWidget(m_full, 1);

    m_empty = makeEmpty();
    outer->addWidget(m_empty, 1);

    connect(m_show, &QComboBox::currentIndexChanged, this, [this](int index) {
        m_plate->setMode(index == 0 ? ViewMode::HeatAndNumber : index == 1 ? ViewMode::Number : ViewMode::Heat);
        followScale();
    });
    connect(m_scale, &HeatScale::scaleChanged, this, [this](double low, double high) { m_plate->setScale(low, high); });
}

std::function<void()> DataPage::ask(const char* id) {
    return [this, id] { Q_EMIT actionAsked(QString::fromLatin1(id)); };
}

QLayout* DataPage::makeTop() {
    auto* top = new QHBoxLayout;
    top->setSpacing(8);
    auto* import = makeButton(tr("Import a reading…"), "normal", QStringLiteral("dataImport"), this);
    setPicture(import, QStringLiteral("file-import"));
    auto* paste = makeButton(tr("Paste a block"), "normal", QStringLiteral("dataPaste"), this);
    setPicture(paste, QStringLiteral("clipboard"));
    connect(import, &QPushButton::clicked, this, ask("data.import"));
    connect(paste, &QPushButton::clicked, this, ask("data.paste"));
    top->addWidget(import);
    top->addWidget(paste);
    top->addStretch();
    top->addWidget(makeLabel(tr("Show"), "mute", this));
    m_of = new Choice(this);
    m_of->setObjectName(QStringLiteral("dataOf"));
    m_of->setAccessibleName(tr("What the wells show"));
    m_of->addItems({tr("Reading"), tr("Response"), tr("Concentration"), tr("CV, %"), tr("Status"), tr("Class")});
    connect(m_of, &QComboBox::currentIndexChanged, this, [this] {
        m_plate->setQuantity(quantity());
        m_show->setVisible(quantity() != PlateQuantity::OverTime);
        followScale();
    });
    top->addWidget(m_of);
    m_show = new Choice(this);
    m_show->setObjectName(QStringLiteral("dataShow"));
    m_show->addItems({tr("Heat and number"), tr("Numbers"), tr("Heat")});
    top->addWidget(m_show);
    m_scale = new HeatScale(this);
    m_scale->setObjectName(QStringLiteral("heatScale"));
    top->addWidget(m_scale);
    return top;
}

QWidget* DataPage::makeReadings() {
    auto* readingsCard = new Card(tr("Readings in this batch"), this);
    const auto reading = [this](int row) -> std::pair<int, const Reading*> {
        auto it = m_workspace.batch().readings.begin();
        std::advance(it, row);
        return {it->first, &*it->second};
    };
    const auto inUse = [this, reading](int row) {
        const auto& [key, one] = reading(row);
        const auto used = m_workspace.batch().inUse.find(one->slot);
        return used != m_workspace.batch().inUse.end() && used->second == key;
    };
    m_readings = new ColumnsModel(
        {{tr("Source"), false, 112, [reading](int row) { return text(reading(row).second->source); },
          [inUse](int row, int role) { return role == cell::kBold ? QVariant(inUse(row)) : QVariant(); }},
         {tr("What was understood"), false, 0,
          [this, reading](int row) {
              const Reading& r = *reading(row).second;
              const Batch& batch = m_workspace.batch();
              const std::string where =
                  batch.carriers.size() > 1 ? carrierName(batch.carriers, r.slot.carrier) + ", " : "";
              return text(where + (r.slot.channel.empty() ? "" : r.slot.channel + ", ") + r.understood);
          }},
         {tr("Imported"), false, 76, [reading](int row) { return clockText(reading(row).second->takenInMillis); }},
         {QString(), false, 68, [inUse](int row) { return inUse(row) ? DataPage::tr("In use") : QString(); },
          [](int, int role) {
              return role == cell::kOutcome ? QVariant(static_cast<int>(Outcome::Pass)) : QVariant();
          }}},
        [this] { return static_cast<int>(m_workspace.batch().readings.size()); }, this);
    m_readingsTable = new DataTable(m_readings, QStringLiteral("readingsTable"), readingsCard);
    m_readingsTable->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents); // long lines wrap
    readingsCard->body()->addWidget(m_readingsTable);
    readingsCard->body()->addWidget(
        makeLabel(tr("Double-click a reading to use it; layout and method stay as they are."), "small", readingsCard));
    connect(m_readingsTable, &QAbstractItemView::doubleClicked, this, [this, reading](const QModelIndex& index) {
        m_workspace.apply(useReading(m_workspace.newest(), reading(index.row()).first));
    });
    return readingsCard;
}

QWidget* DataPage::makeFacts() {
    auto* factsCard = new Card(tr("This reading"), this);
    m_facts = makeLabel({}, "value", factsCard);
    m_facts->setWordWrap(true);
    m_facts->setObjectName(QStringLiteral("readingFacts"));
    m_unusable = makeLabel({}, "mute", factsCard);
    m_unusable->setWordWrap(true);
    m_unusable->setObjectName(QStringLiteral("readingUnusable"));
    factsCard->body()->addWidget(m_facts);
    factsCard->body()->addWidget(m_unusable);
    m_effectsWords = makeLabel({}, "value", factsCard);
    m_effectsWords->setWordWrap(true);
    m_effectsWords->setObjectName(QStringLiteral("readingEffects"));
    m_effectsWords->setToolTip(
        tr("Median polish of the unknowns' responses; tested by exchanging the places of the samples at random. "
           "Samples that stand in the order of their content look like an effect."));
    m_effectsLargest = makeLabel({}, "mute", factsCard);
    m_effectsLargest->setWordWrap(true);
    m_effects = new EffectsPicture(factsCard);
    factsCard->body()->addWidget(m_effectsWords);
    factsCard->body()->addWidget(m_effectsLargest);
    factsCard->body()->addWidget(m_effects, 1);
    factsCard->body()->addStretch();
    showEffects(std::nullopt);
    return factsCard;
}

QWidget* DataPage::makeEmpty() {
    auto* emptyCard = new Card({}, this);
    auto* what =
        makeLabel(tr("No reading yet. Import a CSV or TSV file, drop it here, or paste a block from a spreadsheet."),
                  "title", emptyCard);
    what->setAlignment(Qt::AlignCenter);
    what->setWordWrap(true);
    auto* emptyImport = makeButton(tr("Import a reading…"), "primary", QStringLiteral("dataEmptyImport"), emptyCard);
    connect(emptyImport, &QPushButton::clicked, this, ask("data.import"));
    emptyCard->body()->addStretch();
    emptyCard->body()->addWidget(what);
    emptyCard->body()->addWidget(emptyImport, 0, Qt::AlignHCenter);
    auto* typeList = makeButton(tr("Type a list of readings"), "normal", QStringLiteral("dataTypeList"), emptyCard);
    connect(typeList, &QPushButton::clicked, this, ask("carrier.addList"));
    emptyCard->body()->addWidget(typeList, 0, Qt::AlignHCenter);
    emptyCard->body()->addStretch();
    return emptyCard;
}

QString DataPage::keysHint() const {
    return tr("V what is shown · H heat or numbers · N next unusable · Ctrl+C copy as matrix");
}

QWidget* DataPage::mainWidget() const {
    return m_plate->shown();
}

QString DataPage::facts() const {
    return tr("Drop a file anywhere to add a reading · Ctrl+V pastes a block");
}

/// The reading that is looked at: of the carrier that is shown, the first that the analyte is read from.
const Reading* DataPage::shownReading() const {
    return m_workspace.batch().firstReading(m_workspace.analyteNumber(), m_workspace.carrierNumber());
}

PlateQuantity DataPage::quantity() const {
    return static_cast<PlateQuantity>(m_of->currentIndex());
}

/// The scale has the range of what the plate shows, and is there where heat shows numbers.
void DataPage::followScale() {
    const auto range = m_plate->valueRange();
    m_scale->setVisible(range && m_show->currentIndex() != 1);
    if (range && *range != m_range) {
        m_range = *range;
        m_scale->setRange(range->first, range->second);
        m_plate->setScale({}, {});
    }
}

/// What wells showed over time is offered where there are reads at times.
void DataPage::offerOverTime() {
    constexpr int kOverTime = static_cast<int>(PlateQuantity::OverTime);
    const bool isOffered = m_of->count() > kOverTime;
    const bool hasTimes = !timedChannels(m_workspace.batch()).empty();
    if (hasTimes && !isOffered) {
        m_of->addItem(tr("Over time"));
    } else if (!hasTimes && isOffered) {
        m_of->removeItem(kOverTime);
    }
}

void DataPage::refresh() {
    const Batch& batch = m_workspace.batch();
    const bool isEmpty =
        batch.readings.empty() && batch.carriers.size() == 1 && m_workspace.carrier().kind == CarrierKind::Plate;
    m_empty->setVisible(isEmpty);
    m_full->setVisible(!isEmpty);
    m_readings->refresh();
    m_of->setVisible(m_workspace.carrier().kind == CarrierKind::Plate);
    m_show->setVisible(quantity() != PlateQuantity::OverTime); // curves are neither heat nor numbers
    offerOverTime();
    followScale();
    refreshEffects();
    const Reading* reading = shownReading();
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    if (grid == nullptr) {
        m_facts->setText(tr("Nothing has been read here yet."));
        m_unusable->clear();
        return;
    }
    std::vector<double> numbers;
    for (const ReadingWell& well : grid->wells) {
        if (well.value) {
            numbers.push_back(*well.value);
        }
    }
    const auto [least, most] = std::ranges::minmax_element(numbers);
    m_facts->setText(
        tr("%1 of %2 with a number, %3 to %4")
            .arg(numbers.size())
            .arg(text(countOfPlaces(batch, std::vector<Place>(grid->wells.size(), {0, 0, reading->slot.carrier}))))
            .arg(numbers.empty() ? notDefined() : shown(formatFigures(*least, 3)),
                 numbers.empty() ? notDefined() : shown(formatFigures(*most, 3))));
    const auto unusable = unusablePlaces(*reading, *grid);
    QStringList lines;
    for (const Place place : unusable) {
        const ReadingWell& well = *grid->at(place.row, place.column);
        lines << tr("%1: \"%2\" on line %3 is not a number")
                     .arg(text(placeName(m_workspace.batch(), place)), text(well.text))
                     .arg(well.line);
        if (lines.size() == 3 && unusable.size() > 4) {
            lines << tr("and %1 more").arg(unusable.size() - 3);
            break;
        }
    }
    m_unusable->setText(lines.isEmpty() ? tr("Everything that was read is usable.") : lines.join(u'\n'));
    m_facts->setToolTip(tr("Checksum of the file: %1").arg(text(reading->checksum)));
}

/// Exchanging places takes a while on a large plate, so it is done beside the window, and only for other values.
void DataPage::refreshEffects() {
    std::vector<PlacedValue> values =
        unknownsOn(m_workspace.batch(), m_workspace.evaluation(), m_workspace.carrierNumber());
    if (values == m_effectsOf) {
        return;
    }
    m_effectsOf = std::move(values);
    if (m_effectsJob) {
        m_effectsJob->cancel();
    }
    if (m_effectsOf.empty()) {
        showEffects(std::nullopt);
        return;
    }
    using Found = std::optional<PositionEffects>;
    const Carrier carrier = m_workspace.carrier();
    m_effectsJob = runJob<Found>(
        this,
        [of = m_effectsOf, carrier](Progress& progress) -> Result<Found> {
            auto found = positionEffects(of, carrier.rows, carrier.columns, progress);
            return progress.cancelled() ? Result<Found>(tl::unexpected(Error{})) : Result<Found>(std::move(found));
        },
        [this, of = m_effectsOf](Result<Found> found) {
            if (found && of == m_effectsOf) { // else another answer follows
                showEffects(*found);
            }
        });
}

void DataPage::showEffects(const std::optional<PositionEffects>& effects) {
    m_effectsWords->setVisible(!m_effectsOf.empty());
    m_effects->setEffects(effects);
    m_effects->setVisible(effects.has_value());
    m_effectsLargest->setVisible(effects.has_value());
    m_effectsLargest->setText(effects ? shown(largestEffects(*effects)) : QString());
    m_effectsWords->setText(effects ? shown(sentence(*effects))
                                    : tr("Too few unknowns to tell effects of rows, columns and the edge."));
}

std::vector<PageAction> DataPage::actions() {
    return {{QStringLiteral("data.unusable"),
             tr("Next unusable well"),
             {QKeySequence(Qt::Key_N)},
             [this] { nextUnusable(); }},
            {QStringLiteral("data.show"),
             tr("Show heat, numbers or both"),
             {QKeySequence(Qt::Key_H)},
             [this] { cycleShow(); }},
            {QStringLiteral("data.of"),
             tr("Show readings, responses, concentrations, CV or status"),
             {QKeySequence(Qt::Key_V)},
             [this] { m_of->setCurrentIndex((m_of->currentIndex() + 1) % m_of->count()); }}};
}

void DataPage::nextUnusable() {
    const Reading* reading = shownReading();
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    if (grid == nullptr) {
        return;
    }
    const auto places = unusablePlaces(*reading, *grid);
    if (places.empty()) {
        m_workspace.tell(tr("Everything that was read is usable."), false);
        return;
    }
    const Place from = m_workspace.selection().places.empty() ? Place{-1, -1} : m_workspace.selection().places.front();
    auto next = std::find_if(places.begin(), places.end(), [&](Place p) { return p > from; });
    m_workspace.select({next == places.end() ? places.front() : *next});
}

void DataPage::cycleShow() {
    m_show->setCurrentIndex((m_show->currentIndex() + 1) % m_show->count());
}

/// What a well shows, with all digits.
QString DataPage::cellText(const Grid& grid, Place place, const PlateValues& values) const {
    if (quantity() == PlateQuantity::Reading) {
        const ReadingWell& well = *grid.at(place.row, place.column);
        return well.value ? text(formatNumber(*well.value)) : text(well.text);
    }
    if (quantity() == PlateQuantity::Response) {
        const auto& value = m_workspace.evaluation().at(place).value;
        return value ? text(formatNumber(*value)) : QString();
    }
    const auto number = values.numbers.find(place);
    const auto word = values.words.find(place);
    return number != values.numbers.end() ? text(formatNumber(number->second))
           : word != values.words.end()   ? word->second.text
                                          : QString();
}

void DataPage::copy() const {
    const Reading* reading = shownReading();
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    if (grid == nullptr) {
        return;
    }
    const PlateValues values = plateValues(m_workspace.batch(), m_workspace.evaluation(), quantity());
    QString out;
    for (int column = 0; column < grid->columns; ++column) {
        out += QStringLiteral("\t%1").arg(column + 1);
    }
    for (int row = 0; row < grid->rows; ++row) {
        out += u'\n' + text(rowLetters(row));
        for (int column = 0; column < grid->columns; ++column) {
            out += u'\t' + cellText(*grid, {row, column, reading->slot.carrier}, values);
        }
    }
    QApplication::clipboard()->setText(out + u'\n');
}

} // namespace nuvat
