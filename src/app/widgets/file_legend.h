#pragma once

#include <QWidget>

namespace nuvat {

/// What the ways of painting cells of a file mean, in as many lines as the width asks for.
class FileLegend : public QWidget {
    Q_OBJECT
public:
    explicit FileLegend(QWidget* parent);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    /// @param painter nullptr: nothing is painted. @return the height of all lines
    int draw(QPainter* painter) const;
};

} // namespace nuvat
