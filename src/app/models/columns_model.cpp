#include "models/columns_model.h"

namespace nuvat {

ColumnsModel::ColumnsModel(std::vector<ColumnSpec> columns, std::function<int()> rows, QObject* parent)
    : QAbstractTableModel(parent), m_columns(std::move(columns)), m_rows(std::move(rows)), m_rowCount(m_rows()) {}

void ColumnsModel::refresh() {
    const int rows = m_rows();
    if (rows != m_rowCount) {
        beginResetModel();
        m_rowCount = rows;
        endResetModel();
    } else if (rows > 0) {
        Q_EMIT dataChanged(index(0, 0), index(rows - 1, columnCount() - 1));
    }
}

void ColumnsModel::setColumns(std::vector<ColumnSpec> columns) {
    beginResetModel();
    m_columns = std::move(columns);
    m_rowCount = m_rows();
    endResetModel();
}

void ColumnsModel::setHeading(int column, const QString& heading) {
    ColumnSpec& spec = m_columns.at(static_cast<std::size_t>(column));
    if (spec.heading != heading) {
        spec.heading = heading;
        Q_EMIT headerDataChanged(Qt::Horizontal, column, column);
    }
}

int ColumnsModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : m_rowCount;
}
int ColumnsModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_columns.size());
}

QVariant ColumnsModel::data(const QModelIndex& index, int role) const {
    // Between a change of the batch and refresh() a view may still ask for a row that is gone.
    if (!index.isValid() || index.row() >= m_rows()) {
        return {};
    }
    const ColumnSpec& column = m_columns.at(static_cast<std::size_t>(index.column()));
    if (role == Qt::DisplayRole || role == Qt::EditRole) {
        return column.display(index.row());
    }
    if (role == Qt::TextAlignmentRole) {
        return QVariant(Qt::AlignVCenter | (column.isNumber ? Qt::AlignRight : Qt::AlignLeft));
    }
    if (role >= Qt::UserRole && column.extra) {
        return column.extra(index.row(), role);
    }
    return {};
}

bool ColumnsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::EditRole || !index.isValid() || index.row() >= m_rows()) {
        return false;
    }
    const ColumnSpec& column = m_columns.at(static_cast<std::size_t>(index.column()));
    return column.edit && column.edit(index.row(), value.toString());
}

QVariant ColumnsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) {
        return {};
    }
    const ColumnSpec& column = m_columns.at(static_cast<std::size_t>(section));
    if (role == Qt::DisplayRole) {
        return column.heading;
    }
    if (role == Qt::TextAlignmentRole) {
        return QVariant(Qt::AlignVCenter | (column.isNumber ? Qt::AlignRight : Qt::AlignLeft));
    }
    return {};
}

Qt::ItemFlags ColumnsModel::flags(const QModelIndex& index) const {
    Qt::ItemFlags flags = QAbstractTableModel::flags(index);
    if (index.isValid() && index.row() < m_rows()) {
        const ColumnSpec& column = m_columns.at(static_cast<std::size_t>(index.column()));
        if (column.isEditable && column.isEditable(index.row())) {
            flags |= Qt::ItemIsEditable;
        }
    }
    return flags;
}

} // namespace nuvat
