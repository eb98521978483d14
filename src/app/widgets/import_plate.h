#pragma once

#include "nuvat/formats/plate_file.h"

#include <QWidget>

namespace nuvat {

/// Where the values of a file come to lie on the plate, small: darker is more, a dashed well has no number.
class ImportPlate : public QWidget {
    Q_OBJECT
public:
    explicit ImportPlate(QWidget* parent);
    /// @param import nullptr: nothing is drawn
    void setImport(const PlateImport* import);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    int m_rows = 0, m_columns = 0;
    std::vector<PlateCell> m_wells;
};

} // namespace nuvat
