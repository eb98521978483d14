#pragma once

#include <optional>
#include <QWidget>
#include <string>
#include <vector>

class QVBoxLayout;

namespace nuvat {

/// Blocks of a report below each other, in their order: those that are in, with page breaks among them, then those left
/// out. A row is dragged to its place, or goes there with Alt and the arrows; its switch takes it in or out; a block
/// with options shows below its name which one is chosen.
class BlockList : public QWidget {
    Q_OBJECT
public:
    struct Row {
        std::string key;
        QString title;
        bool isIn = true;
        std::string option; ///< one of the block's
        bool operator==(const Row&) const = default;
    };
    explicit BlockList(QWidget* parent);
    void setRows(std::vector<Row> rows);
    const std::vector<Row>& rows() const { return m_rows; }
    QRect rowRect(std::size_t index) const; ///< lets tests drag it

Q_SIGNALS:
    void switched(std::size_t index, bool isIn);
    void chosen(std::size_t index, const std::string& option);
    void moved(std::size_t from, std::size_t to); ///< to: where it stands then

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

private:
    void addRow(std::size_t index);
    QWidget* makeOptions(std::size_t index, QWidget* parent); ///< nullptr where the block has none
    std::size_t countIn() const;
    std::optional<std::size_t> rowAt(int y) const;
    std::vector<Row> m_rows;
    std::vector<QWidget*> m_widgets;
    QVBoxLayout* m_layout;
    std::optional<std::size_t> m_dragged, m_target;
};

} // namespace nuvat
