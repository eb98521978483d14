#pragma once

#include <filesystem>
#include <optional>
#include <QString>
#include <QStringList>

class QPrinter;
class QWidget;

namespace nuvat {

/// Every question to a person that blocks goes through here, so that tests can answer it.
class FileDialogs {
public:
    virtual ~FileDialogs() = default;
    /// An existing file, or nothing when cancelled.
    virtual std::optional<QString> openFile(QWidget* parent, const QString& title, const QString& filter);
    /// Existing files; empty when cancelled.
    virtual QStringList openFiles(QWidget* parent, const QString& title, const QString& filter);
    /// An existing folder, or nothing when cancelled.
    virtual std::optional<QString> openFolder(QWidget* parent, const QString& title);
    /// A file to write; `suggested` is a name or path; `ending` is added when the person gives none.
    virtual std::optional<QString> saveFile(QWidget* parent, const QString& title, const QString& suggested,
                                            const QString& filter, const QString& ending);
    /// Asks for a printer and how it prints. @return false when cancelled
    virtual bool choosePrinter(QWidget* parent, QPrinter& printer);
};

/// A path as the system has it.
std::filesystem::path pathOf(const QString& text);

/// Asks for the reason of an exclusion. @return the reason, never empty, or nothing when cancelled
std::optional<QString> askReason(QWidget* parent, const QString& what);
/// Asks for the reason for letting a criterion that was not met stand. @return as askReason
std::optional<QString> askOverride(QWidget* parent, const QString& criterion);
/// What a person says of the batch as a whole.
struct BatchDetails {
    QString title, laboratory, note;
};
/// Asks for name, laboratory and note of the batch. @return nothing when cancelled; the name is never empty
std::optional<BatchDetails> askDetails(QWidget* parent, const BatchDetails& before);
/// Asks for a line of text. @return the text, never empty, or nothing when cancelled
std::optional<QString> askLine(QWidget* parent, const QString& title, const QString& label, const QString& before);

} // namespace nuvat
