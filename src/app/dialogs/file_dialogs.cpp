#include "dialogs/file_dialogs.h"

#include "dialogs/form.h"
#include "widgets/controls.h"

#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPrintDialog>
#include <QPrinter>
#include <QRegularExpression>
#include <QVBoxLayout>

namespace nuvat {

std::optional<QString> FileDialogs::openFile(QWidget* parent, const QString& title, const QString& filter) {
    const QString file = QFileDialog::getOpenFileName(parent, title, {}, filter);
    return file.isEmpty() ? std::nullopt : std::optional(file);
}

QStringList FileDialogs::openFiles(QWidget* parent, const QString& title, const QString& filter) {
    return QFileDialog::getOpenFileNames(parent, title, {}, filter);
}

std::optional<QString> FileDialogs::openFolder(QWidget* parent, const QString& title) {
    const QString folder = QFileDialog::getExistingDirectory(parent, title);
    return folder.isEmpty() ? std::nullopt : std::optional(folder);
}

bool FileDialogs::choosePrinter(QWidget* parent, QPrinter& printer) {
    QPrintDialog dialog(&printer, parent);
    dialog.setOption(QAbstractPrintDialog::PrintPageRange, false);
    return dialog.exec() == QDialog::Accepted;
}

std::filesystem::path pathOf(const QString& text) {
    return {text.toStdString()};
}

std::optional<QString> FileDialogs::saveFile(QWidget* parent, const QString& title, const QString& suggested,
                                             const QString& filter, const QString& ending) {
    QFileDialog dialog(parent, title, {}, filter);
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setDefaultSuffix(ending);
    dialog.selectFile(suggested);
    // Another kind of file gets its own ending, also in the name that is there.
    QObject::connect(&dialog, &QFileDialog::filterSelected, &dialog, [&dialog](const QString& chosen) {
        static const QRegularExpression pattern(QStringLiteral("\\*\\.(\\w+)"));
        const QString suffix = pattern.match(chosen).captured(1);
        const QStringList files = dialog.selectedFiles();
        if (!suffix.isEmpty() && !files.isEmpty()) {
            dialog.setDefaultSuffix(suffix);
            dialog.selectFile(QFileInfo(files.first()).completeBaseName() + u'.' + suffix);
        }
    });
    if (dialog.exec() != QDialog::Accepted || dialog.selectedFiles().isEmpty()) {
        return std::nullopt;
    }
    return dialog.selectedFiles().first();
}

namespace {

/// A small dialog: a line to type in, what is usual to click on, and the two buttons.
std::optional<QString> askText(QWidget* parent, const QString& title, const QString& label, const QString& before,
                               const QStringList& usual, const QString& accept) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("askDialog"));
    dialog.setWindowTitle(title);
    dialog.setMinimumWidth(420);
    auto* layout = new QVBoxLayout(&dialog);
    layout->setContentsMargins(20, 18, 20, 16);
    layout->setSpacing(10);
    layout->addWidget(makeLabel(title, "title", &dialog));
    auto* explain = makeLabel(label, "mute", &dialog);
    explain->setWordWrap(true);
    layout->addWidget(explain);
    auto* line = new QLineEdit(before, &dialog);
    line->setObjectName(QStringLiteral("askLine"));
    line->setAccessibleName(label);
    line->selectAll();
    layout->addWidget(line);
    if (!usual.isEmpty()) {
        auto* row = new QHBoxLayout;
        for (const QString& one : usual) {
            auto* button = makeButton(one, "chip", {}, &dialog);
            QObject::connect(button, &QPushButton::clicked, line, [line, one] {
                line->setText(one);
                line->setFocus();
            });
            row->addWidget(button);
        }
        row->addStretch();
        layout->addLayout(row);
    }
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    auto* cancel = makeButton(QObject::tr("Cancel"), "normal", QStringLiteral("askCancel"), &dialog);
    auto* ok = makeButton(accept, "primary", QStringLiteral("askAccept"), &dialog);
    ok->setDefault(true);
    const auto judge = [=] { ok->setEnabled(!line->text().trimmed().isEmpty()); };
    QObject::connect(line, &QLineEdit::textChanged, ok, judge);
    judge();
    QObject::connect(cancel, &QPushButton::clicked, &dialog, &QDialog::reject);
    QObject::connect(ok, &QPushButton::clicked, &dialog, &QDialog::accept);
    buttons->addWidget(cancel);
    buttons->addWidget(ok);
    layout->addSpacing(4);
    layout->addLayout(buttons);
    line->setFocus();
    if (dialog.exec() != QDialog::Accepted) {
        return std::nullopt;
    }
    return line->text().trimmed();
}

} // namespace

std::optional<BatchDetails> askDetails(QWidget* parent, const BatchDetails& before) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(460);
    const Frame frame = makeFrame(dialog, "detailsDialog", QObject::tr("Details of the batch"), QObject::tr("Use"));
    Form form(&dialog);
    form.section(QObject::tr("Details of the batch"));
    auto* title = form.line(QObject::tr("Name"), "detailsTitle", before.title);
    auto* laboratory = form.line(QObject::tr("Laboratory"), "detailsLaboratory", before.laboratory);
    auto* note = form.line(QObject::tr("Note"), "detailsNote", before.note);
    frame.body->addLayout(form.layout());
    frame.body->addWidget(makeLabel(QObject::tr("They stand at the head of the report."), "small", &dialog));
    frame.body->addLayout(frame.buttons);
    QObject::connect(title, &QLineEdit::textChanged, frame.accept,
                     [&](const QString& typed) { frame.accept->setEnabled(!typed.trimmed().isEmpty()); });
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, &QDialog::accept);
    title->setFocus();
    title->selectAll();
    if (dialog.exec() != QDialog::Accepted) {
        return std::nullopt;
    }
    return BatchDetails{title->text(), laboratory->text(), note->text()};
}

std::optional<QString> askReason(QWidget* parent, const QString& what) {
    return askText(parent, QObject::tr("Exclude %1").arg(what),
                   QObject::tr("Why? The reason stands in the history and in the report."), {},
                   {QObject::tr("bubble in well"), QObject::tr("pipetting error"), QObject::tr("edge of the plate")},
                   QObject::tr("Exclude"));
}

std::optional<QString> askOverride(QWidget* parent, const QString& criterion) {
    return askText(parent, QObject::tr("Override: %1").arg(criterion),
                   QObject::tr("Why does it not count here? The reason stands in the history and in the report."), {},
                   {}, QObject::tr("Override"));
}

std::optional<QString> askLine(QWidget* parent, const QString& title, const QString& label, const QString& before) {
    return askText(parent, title, label, before, {}, QObject::tr("OK"));
}

} // namespace nuvat
