#pragma once

#include "widgets/controls.h"

#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

/// Rows of a title and a line to type in.
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
    QLineEdit* line(const QString& title, const char* name, const QString& value) {
        auto* out = new QLineEdit(value, m_dialog);
        out->setObjectName(QString::fromLatin1(name));
        out->setAccessibleName(title);
        m_grid->addWidget(makeLabel(title, "mute", m_dialog), m_row, 0);
        m_grid->addWidget(out, m_row++, 1);
        return out;
    }

private:
    QDialog* m_dialog;
    QGridLayout* m_grid;
    int m_row = 0;
};

/// Frame of a dialog: title, content, buttons.
struct Frame {
    QVBoxLayout* body = nullptr;
    QHBoxLayout* buttons = nullptr;
    QPushButton* accept = nullptr;
};
Frame makeFrame(QDialog& dialog, const char* name, const QString& title, const QString& accept);

} // namespace nuvat
