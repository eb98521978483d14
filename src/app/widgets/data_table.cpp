#include "widgets/data_table.h"

#include "nuvat/core/base/text.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>
#include <QStyledItemDelegate>

namespace nuvat {

namespace {

/// Draws cells: text, marks of outcomes, bars against limits, intervals.
class CellDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& t = theme();
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        if (option.state.testFlag(QStyle::State_Selected)) {
            painter->fillRect(option.rect, t.plumSoft);
        }
        painter->setPen(QPen(t.line, 1));
        painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
        const QVariant bar = index.data(cell::kBar);
        const QVariant interval = index.data(cell::kInterval);
        const QVariant outcome = index.data(cell::kOutcome);
        if (bar.isValid()) {
            paintBar(*painter, option.rect, bar.toList());
        } else if (interval.isValid()) {
            paintInterval(*painter, option.rect, interval.toList());
        } else if (outcome.isValid()) {
            paintMark(*painter, option.rect, index.data().toString(), static_cast<Outcome>(outcome.toInt()));
        } else {
            paintText(*painter, option.rect, index);
        }
        painter->restore();
    }

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        QSize size = QStyledItemDelegate::sizeHint(option, index);
        if (index.data(cell::kBar).isValid()) {
            return size;
        }
        // Wrapped text decides the height of its row.
        const int width = option.rect.width() > 20 ? option.rect.width() - 16 : 200;
        const QRect bounds =
            option.fontMetrics.boundingRect(QRect(0, 0, width, 1000), Qt::TextWordWrap, index.data().toString());
        size.setHeight(std::max(24, bounds.height() + 9));
        return size;
    }

private:
    static void paintText(QPainter& painter, const QRect& rect, const QModelIndex& index) {
        const Theme& t = theme();
        QRect area = rect.adjusted(8, 0, -8, 0);
        const QVariant shape = index.data(cell::kShape);
        if (shape.isValid()) {
            const Role role = static_cast<Role>(shape.toInt());
            drawRoleShape(painter, QPointF(area.left() + 4, area.center().y() + 0.5), 4, role, t.role(role));
            area.setLeft(area.left() + 15);
        }
        if (const QVariantList levels = index.data(cell::kLevels).toList(); !levels.isEmpty()) {
            paintLevels(painter, area, levels);
        }
        painter.setFont(uiFont(13, index.data(cell::kBold).toBool() ? QFont::Bold : QFont::Normal));
        painter.setPen(index.data(cell::kMuted).toBool() ? t.mute : t.ink);
        const int alignment = index.data(Qt::TextAlignmentRole).toInt();
        const QString what = index.data().toString();
        const QFontMetrics metrics(painter.font());
        if (rect.height() < 2 * metrics.height()) {
            painter.drawText(area, alignment, metrics.elidedText(what, Qt::ElideRight, area.width()));
        } else {
            painter.drawText(area, alignment | Qt::TextWordWrap, what);
        }
    }

    /// Full and green within its limit, an empty brick frame outside it: told apart without colour too.
    static void paintLevels(QPainter& painter, const QRect& area, const QVariantList& levels) {
        constexpr int kStep = 8;
        constexpr qsizetype kMost = 9;
        const Theme& t = theme();
        painter.setRenderHint(QPainter::Antialiasing);
        for (qsizetype i = 0; i < std::min(levels.size(), kMost); ++i) {
            const QRectF mark(area.left() + static_cast<double>(kStep * i) + 0.5, area.center().y() - 3.5, 5, 7);
            const bool isWithin = levels[i].toBool();
            painter.setPen(isWithin ? QPen(Qt::NoPen) : QPen(t.brick, 1.2));
            painter.setBrush(isWithin ? QBrush(t.pine) : QBrush(Qt::NoBrush));
            painter.drawRoundedRect(mark, 1.2, 1.2);
        }
    }

    static void paintMark(QPainter& painter, const QRect& rect, const QString& what, Outcome outcome) {
        if (what.isEmpty()) {
            return;
        }
        const Theme& t = theme();
        painter.setFont(uiFont(12, QFont::Bold));
        const int width = painter.fontMetrics().horizontalAdvance(what) + 16;
        const QRectF area(rect.left() + 8, rect.center().y() - 8.5, width, 18);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.outcomeSoft(outcome));
        painter.drawRoundedRect(area, 4, 4);
        painter.setPen(t.outcome(outcome));
        painter.drawText(area, Qt::AlignCenter, what);
    }

    static void paintBar(QPainter& painter, const QRect& rect, const QVariantList& bar) {
        if (bar.size() < 3) {
            return;
        }
        const Theme& t = theme();
        const double used = bar[0].toDouble();
        const auto outcome = static_cast<Outcome>(bar[1].toInt());
        const QRectF track(rect.left() + 8, rect.center().y() - 1.5, rect.width() - 16, 4);
        const double limit = track.left() + track.width() * 0.72;
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.field);
        painter.drawRoundedRect(track, 2, 2);
        QRectF filled = track;
        filled.setWidth(std::min(track.width(), std::max(2.0, used * track.width() * 0.72)));
        painter.setBrush(outcome == Outcome::Review ? t.saffron : t.outcome(outcome));
        painter.drawRoundedRect(filled, 2, 2);
        painter.setPen(QPen(t.ink, 1.6));
        painter.drawLine(QPointF(limit, track.center().y() - 6), QPointF(limit, track.center().y() + 6));
    }

    static void paintInterval(QPainter& painter, const QRect& rect, const QVariantList& shares) {
        if (shares.size() < 3) {
            return;
        }
        const Theme& t = theme();
        const QRectF track(rect.left() + 8, rect.center().y(), rect.width() - 16, 1);
        const auto at = [&](int i) {
            return track.left() + track.width() * std::clamp(shares[i].toDouble(), 0.0, 1.0);
        };
        painter.setPen(QPen(t.line, 1));
        painter.drawLine(QPointF(track.left(), track.top()), QPointF(track.right(), track.top()));
        painter.setPen(QPen(t.slate, 2));
        painter.drawLine(QPointF(at(0), track.top()), QPointF(at(2), track.top()));
        drawRoleShape(painter, QPointF(at(1), track.top()), 3.5, Role::Standard, t.slate);
    }
};

} // namespace

DataTable::DataTable(ColumnsModel* model, const QString& objectName, QWidget* parent)
    : QTableView(parent), m_model(model) {
    setObjectName(objectName);
    setModel(model);
    setItemDelegate(new CellDelegate(this));
    setShowGrid(false);
    setFrameShape(QFrame::NoFrame);
    setSelectionBehavior(QAbstractItemView::SelectRows);
    setSelectionMode(QAbstractItemView::ExtendedSelection);
    setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    setTabKeyNavigation(false);
    setWordWrap(true);
    setMouseTracking(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    verticalHeader()->hide();
    verticalHeader()->setMinimumSectionSize(20);
    horizontalHeader()->setHighlightSections(false);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    horizontalHeader()->setMinimumSectionSize(20);
    horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    setRowHeight(25);
    connect(selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& current) {
        if (!m_isShowing && current.isValid()) {
            Q_EMIT rowChosen(current.row());
        }
    });
    connect(this, &QAbstractItemView::clicked, this,
            [this](const QModelIndex& index) { Q_EMIT rowChosen(index.row()); });
    connect(this, &QAbstractItemView::entered, this,
            [this](const QModelIndex& index) { Q_EMIT rowHovered(index.row()); });
    connect(model, &QAbstractItemModel::headerDataChanged, this, [this] { distribute(); });
    connect(model, &QAbstractItemModel::dataChanged, this, [this] { distribute(); });
    connect(model, &QAbstractItemModel::modelReset, this, [this] { distribute(); });
}

void DataTable::setRowHeight(int pixels) {
    verticalHeader()->setDefaultSectionSize(pixels);
    verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
}

void DataTable::setColumnsMovable() {
    horizontalHeader()->setSectionsMovable(true);
    connect(horizontalHeader(), &QHeaderView::sectionMoved, this, [this] {
        if (!m_isOrdering) { // the header is in the middle of its drag
            QMetaObject::invokeMethod(this, &DataTable::columnMoved, Qt::QueuedConnection);
        }
    });
}

std::vector<int> DataTable::columnOrder() const {
    std::vector<int> out;
    for (int i = 0; i < m_model->columnCount(); ++i) {
        out.push_back(horizontalHeader()->logicalIndex(i));
    }
    return out;
}

void DataTable::forgetMoves() {
    m_isOrdering = true;
    for (int i = 0; i < m_model->columnCount(); ++i) {
        horizontalHeader()->moveSection(horizontalHeader()->visualIndex(i), i);
    }
    m_isOrdering = false;
    distribute();
}

void DataTable::showRow(int row) {
    m_isShowing = true;
    if (row < 0) {
        clearSelection();
        setCurrentIndex({});
    } else if (!selectionModel()->isRowSelected(row, {}) || currentIndex().row() != row) {
        const int column = std::max(0, currentIndex().column());
        setCurrentIndex(m_model->index(row, column));
        selectRow(row);
        scrollTo(m_model->index(row, column));
    }
    m_isShowing = false;
}

QString DataTable::copyText() const {
    std::vector<int> rows;
    for (const QModelIndex& index : selectionModel()->selectedRows()) {
        rows.push_back(index.row());
    }
    std::sort(rows.begin(), rows.end());
    if (rows.size() < 2) { // one row is where the cursor is: people then mean the table
        rows.clear();
        for (int row = 0; row < m_model->rowCount(); ++row) {
            rows.push_back(row);
        }
    }
    const auto line = [this](const std::function<QString(int)>& textOf) {
        QStringList cells;
        for (int column = 0; column < m_model->columnCount(); ++column) {
            if (!m_model->headerData(column, Qt::Horizontal).toString().isEmpty()) {
                cells << textOf(column).replace(u'\n', u' ').replace(u'\t', u' ');
            }
        }
        return cells.join(u'\t');
    };
    QStringList lines{line([this](int column) { return m_model->headerData(column, Qt::Horizontal).toString(); })};
    for (const int row : rows) {
        lines << line([this, row](int column) {
            return QString::fromStdString(forSpreadsheet(m_model->index(row, column).data().toString().toStdString()));
        });
    }
    return lines.join(u'\n') + u'\n';
}

void DataTable::keyPressEvent(QKeyEvent* event) {
    if (event->matches(QKeySequence::Copy)) {
        QApplication::clipboard()->setText(copyText());
        event->accept();
        return;
    }
    if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && state() != EditingState) {
        const QModelIndex index = currentIndex();
        if (index.isValid() && index.flags().testFlag(Qt::ItemIsEditable)) {
            edit(index);
            return;
        }
    }
    // Letters are shortcuts of the page here, not a search in the table.
    if (!event->text().isEmpty() && event->text().front().isPrint() && state() != EditingState &&
        event->key() != Qt::Key_F2) {
        event->ignore();
        return;
    }
    QTableView::keyPressEvent(event);
}

void DataTable::resizeEvent(QResizeEvent* event) {
    QTableView::resizeEvent(event);
    distribute();
}

void DataTable::leaveEvent(QEvent* event) {
    QTableView::leaveEvent(event);
    Q_EMIT rowHovered(-1);
}

/// Width of a column: as asked, or as its widest cell needs.
int DataTable::wantedWidth(int column) const {
    const int asked = m_model->columns()[static_cast<std::size_t>(column)].width;
    if (asked >= 0) {
        return asked;
    }
    // Only the longest are measured: shaping the text of hundreds of rows takes longer than a frame.
    int width = -asked;
    qsizetype longest = 0;
    for (int row = 0; row < m_model->rowCount(); ++row) {
        const QString what = m_model->index(row, column).data().toString();
        if (what.size() > longest) {
            longest = what.size();
            width = std::max(width, fontMetrics().horizontalAdvance(what) + 18);
        }
    }
    return width;
}

/// Widths as asked; what is left goes to the columns without one, evenly.
void DataTable::showColumns(const std::vector<bool>& isShown) {
    for (std::size_t i = 0; i < isShown.size(); ++i) {
        setColumnHidden(static_cast<int>(i), !isShown[i]);
    }
    distribute();
}

void DataTable::distribute() {
    int fixed = 0;
    int open = 0;
    for (int i = 0; i < m_model->columnCount(); ++i) {
        fixed += isColumnHidden(i) ? 0 : wantedWidth(i);
        open += m_model->columns()[static_cast<std::size_t>(i)].width == 0 ? 1 : 0;
    }
    const int rest = std::max(40 * open, viewport()->width() - fixed);
    for (int i = 0; i < m_model->columnCount(); ++i) {
        const bool isOpen = m_model->columns()[static_cast<std::size_t>(i)].width == 0;
        setColumnWidth(i, isOpen ? rest / std::max(open, 1) : wantedWidth(i));
    }
}

} // namespace nuvat
