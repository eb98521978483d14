#pragma once

#include "nuvat/workflow/session.h"

#include <QAbstractButton>

namespace nuvat {

/// A demo batch to be opened: a small picture, its title, and a line on what it shows.
class DemoTile : public QAbstractButton {
    Q_OBJECT
public:
    DemoTile(const Demo& demo, QWidget* parent);
    QSize sizeHint() const override { return {296, 54}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    void enterEvent(QEnterEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    void drawPicture(QPainter& painter, const QRectF& area) const;
    std::string m_name;
    QString m_line;
};

} // namespace nuvat
