#pragma once

#include "dialogs/file_dialogs.h"
#include "nuvat/store/method_file.h"
#include "session/workspace.h"

#include <QMenu>

namespace nuvat {

/// What can be done with the method of the batch: keep it as a revision, take another, see what differs.
class MethodMenu : public QMenu {
    Q_OBJECT
public:
    MethodMenu(Workspace& workspace, FileDialogs& dialogs, QWidget* parent);
    /// "Patulin kit, revision 4", and whether the batch's copy differs from what is kept under that name.
    QString title();
    void keep(); ///< as the next revision
    void takeFromFile();
    void saveAsFile();

Q_SIGNALS:
    void curveAsked();
    void kept(); ///< the title may be another one now

private:
    void fill();
    void rename();
    void take(const Result<MethodFile>& method);
    MethodLibrary library() const;
    /// The kept revision that the batch's copy goes by; nothing where none is kept.
    const MethodFile* base();
    Workspace& m_workspace;
    FileDialogs& m_dialogs;
    QWidget* m_parent;
    std::optional<std::pair<std::string, int>> m_baseOf; ///< title and revision that it was looked for
    std::optional<MethodFile> m_base;
};

} // namespace nuvat
