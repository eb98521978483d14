#pragma once

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "widgets/controls.h"

#include <optional>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

/// Rows of a title and a control, whose remark is its tool tip; a short one stands in the empty field.
class Form {
public:
    explicit Form(QDialog* dialog) : m_dialog(dialog), m_grid(new QGridLayout) {
        m_grid->setHorizontalSpacing(14);
        m_grid->setVerticalSpacing(7);
        m_grid->setColumnStretch(1, 1);
    }
    QGridLayout* layout() const { return m_grid; }

    void section(const QString& title) {
        if (m_row > 0) {
            m_grid->setRowMinimumHeight(m_row++, 6);
        }
        m_grid->addWidget(makeLabel(title, "title", m_dialog), m_row++, 0, 1, 2);
    }
    Choice* choice(const QString& title, const char* name, const QStringList& items, int current,
                   const QString& remark = {}) {
        auto* out = new Choice(m_dialog);
        out->setObjectName(QString::fromLatin1(name));
        out->setAccessibleName(title);
        out->addItems(items);
        out->setMinimumWidth(kChoiceWidth);
        out->setCurrentIndex(current);
        place(title, out, remark);
        return out;
    }
    QLineEdit* field(const QString& title, const char* name, const std::optional<double>& value,
                     const QString& remark = {}, const QString& empty = {}) {
        auto* out = makeField(QString::fromLatin1(name), kFieldWidth, m_dialog);
        out->setAccessibleName(title);
        out->setText(value ? shown(formatNumber(*value)) : QString());
        out->setPlaceholderText(empty);
        place(title, out, remark);
        return out;
    }
    QLineEdit* line(const QString& title, const char* name, const std::string& value, const QString& remark = {}) {
        auto* out = new QLineEdit(text(value), m_dialog);
        out->setObjectName(QString::fromLatin1(name));
        out->setAccessibleName(title);
        place(title, out, remark);
        return out;
    }

private:
    static constexpr int kFieldWidth = 110;
    static constexpr int kChoiceWidth = 172;
    void place(const QString& title, QWidget* control, const QString& remark) {
        m_grid->addWidget(makeLabel(title, "mute", m_dialog), m_row, 0);
        const bool isWide = qobject_cast<QLineEdit*>(control) != nullptr && control->maximumWidth() > kFieldWidth;
        m_grid->addWidget(control, m_row++, 1, isWide ? Qt::Alignment() : Qt::AlignLeft);
        control->setToolTip(remark);
    }
    QDialog* m_dialog;
    QGridLayout* m_grid;
    int m_row = 0;
};

/// Frame of a dialog: title, content, a place for what is wrong, buttons.
struct Frame {
    QVBoxLayout* body = nullptr;
    QLabel* wrong = nullptr;
    QHBoxLayout* buttons = nullptr;
    QPushButton* accept = nullptr;
};
Frame makeFrame(QDialog& dialog, const char* name, const QString& title, const QString& accept);

} // namespace nuvat
