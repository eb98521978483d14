#pragma once

#include "nuvat/batch/evaluation.h"

#include <functional>
#include <QAbstractTableModel>
#include <QColor>

namespace nuvat {

/// Roles beyond Qt's that the table delegate draws.
namespace cell {
inline constexpr int kRaw = Qt::UserRole;         ///< value for sorting and filtering
inline constexpr int kOutcome = Qt::UserRole + 1; ///< int of Outcome: the text is drawn as a mark with its colour
inline constexpr int kBar = Qt::UserRole + 2; ///< QVariantList {found/limit, outcome, isFloor}: a bar against its limit
inline constexpr int kInterval = Qt::UserRole + 3; ///< QVariantList {low, value, high} shares 0 to 1 of the column
inline constexpr int kBold = Qt::UserRole + 4;
inline constexpr int kMuted = Qt::UserRole + 5;
inline constexpr int kShape = Qt::UserRole + 6; ///< int of Role: its shape before the text
inline constexpr int kLevels =
    Qt::UserRole + 7; ///< QVariantList of bools: a mark for each level before the text, full when it is within
} // namespace cell

/// One column of a table: what it shows of a row, and how it is edited. Functions get the row's number.
struct ColumnSpec {
    QString heading;
    bool isNumber = false;
    int width = 0; ///< pixels; 0: takes what is left; negative: at least so many, more when a cell needs it
    std::function<QVariant(int row)> display;
    std::function<QVariant(int row, int role)> extra = {};       ///< for the roles above; may be empty
    std::function<bool(int row)> isEditable = {};                ///< may be empty: never
    std::function<bool(int row, const QString& text)> edit = {}; ///< pushes a command
};

/// A table over the batch described by columns; holds no data of its own.
class ColumnsModel : public QAbstractTableModel {
    Q_OBJECT
public:
    ColumnsModel(std::vector<ColumnSpec> columns, std::function<int()> rows, QObject* parent);
    /// To be called after every change of the batch. Keeps selection and editors when the number of rows stays.
    void refresh();
    void setColumns(std::vector<ColumnSpec> columns);
    void setHeading(int column, const QString& heading);
    const std::vector<ColumnSpec>& columns() const { return m_columns; }

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role = Qt::DisplayRole) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role = Qt::EditRole) override;
    QVariant headerData(int section, Qt::Orientation orientation, int role = Qt::DisplayRole) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;

private:
    std::vector<ColumnSpec> m_columns;
    std::function<int()> m_rows;
    int m_rowCount = 0;
};

} // namespace nuvat
