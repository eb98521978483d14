#include "plate_blocks.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"

namespace nuvat {

namespace {

constexpr double kWidth = 499; // of a page, in points

/// A plate as a matrix, in parts where it has more columns than a page is wide. @param only that carrier; 0: all
void addMatrix(Pages& pages, const Content& c, const QString& title, const std::function<QString(Place place)>& cellOf,
               int only) {
    constexpr int kMostColumns = 12;
    for (const auto& [number, carrier] : c.batch.carriers) {
        if (carrier.kind != CarrierKind::Plate || (only != 0 && only != number)) {
            continue;
        }
        for (int from = 0; from < carrier.columns; from += kMostColumns) {
            const int to = std::min(from + kMostColumns, carrier.columns);
            const QString where = c.batch.carriers.size() > 1
                                      ? QStringLiteral(", ") + text(carrierName(c.batch.carriers, number))
                                      : QString();
            pages.title(title + where, 4 * kRow);
            std::vector<Column> columns{{QString(), 19, false, true}};
            for (int column = from; column < to; ++column) {
                columns.push_back({QString::number(column + 1), (kWidth - 19) / kMostColumns});
            }
            std::vector<QStringList> rows;
            for (int row = 0; row < carrier.rows; ++row) {
                QStringList line{text(rowLetters(row))};
                for (int column = from; column < to; ++column) {
                    line << cellOf({row, column, number});
                }
                rows.push_back(line);
            }
            pages.table(columns, rows);
        }
    }
}

QString numberOrNothing(const std::optional<double>& value) {
    return value ? number(value, 4) : QString();
}

/// The same of what the curve is about.
void addMatrixOfCurve(Pages& pages, const Content& c, const QString& title,
                      const std::function<QString(Place place)>& cellOf) {
    addMatrix(pages, c, title, cellOf, c.evaluation.carrier);
}

/// A matrix of what is known of each replicate of QCs and unknowns; nothing where there are none.
void addReplicateMatrix(Pages& pages, const Content& c, const QString& title,
                        const std::function<QString(const SampleResult&, const ReplicateResult&)>& cellOf) {
    std::map<Place, QString> cells;
    for (const SampleResult& r : c.evaluation.results) {
        for (const ReplicateResult& replicate : r.replicates) {
            cells[replicate.place] = cellOf(r, replicate);
        }
    }
    if (!cells.empty()) {
        addMatrixOfCurve(pages, c, title,
                         [&](Place place) { return cells.contains(place) ? cells.at(place) : QString(); });
    }
}

} // namespace

void addLayoutMatrix(Pages& pages, const Content& c) {
    const auto nameOf = [&](Place place) {
        const Assignment group = c.batch.at(place);
        return group.role == Role::Empty ? QString() : text(shortName(c.batch, group));
    };
    addMatrix(pages, c, QStringLiteral("Layout"), nameOf, 0);
}

void addReadingMatrix(Pages& pages, const Content& c) {
    addMatrixOfCurve(pages, c, QStringLiteral("Readings as a plate"),
                     [&](Place place) { return numberOrNothing(c.evaluation.at(place).raw); });
}

void addResponseMatrix(Pages& pages, const Content& c) {
    addMatrixOfCurve(pages, c, QStringLiteral("Responses as a plate"),
                     [&](Place place) { return numberOrNothing(c.evaluation.at(place).value); });
}

void addResultMatrix(Pages& pages, const Content& c) {
    const QString title = QStringLiteral("Results as a plate");
    addReplicateMatrix(pages, c, c.unit.isEmpty() ? title : title + QStringLiteral(", ") + c.unit,
                       [](const SampleResult& r, const ReplicateResult& replicate) {
                           return !r.result || !replicate.readOff.x ? text(statusWord(r))
                                                                    : number(*replicate.readOff.x * r.factor(), 3);
                       });
}

void addCvMatrix(Pages& pages, const Content& c) {
    std::map<Place, QString> cells;
    for (const GroupValue& group : c.evaluation.groups) {
        const SampleResult* result = c.evaluation.result(group.group);
        const auto& cv = result != nullptr ? result->concentration.cvPercent : group.response.cvPercent;
        for (const Place place : group.places) {
            cells[place] = cv ? shown(formatDecimals(*cv, 1)) : QString();
        }
    }
    addMatrixOfCurve(pages, c, QStringLiteral("CV as a plate, %"),
                     [&](Place place) { return cells.contains(place) ? cells.at(place) : QString(); });
}

void addStatusMatrix(Pages& pages, const Content& c) {
    addReplicateMatrix(pages, c, QStringLiteral("Status as a plate"),
                       [](const SampleResult& r, const ReplicateResult&) { return text(statusWord(r)); });
}

} // namespace nuvat
