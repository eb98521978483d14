#pragma once

#include <QWidget>

namespace nuvat {

/// The scale of a heat map, with a handle at each end.
class HeatScale : public QWidget {
    Q_OBJECT
public:
    explicit HeatScale(QWidget* parent);
    /// Ends of what can be chosen; the chosen range is reset to it.
    void setRange(double low, double high);
    double low() const { return m_low; }
    double high() const { return m_high; }
    QSize sizeHint() const override { return {184, 34}; }

Q_SIGNALS:
    void scaleChanged(double low, double high);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    double xOf(double value) const;
    void move(double x);
    double m_least = 0, m_most = 1, m_low = 0, m_high = 1;
    bool m_movesHigh = true;
};

} // namespace nuvat
