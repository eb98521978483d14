#pragma once

#include "session/workspace.h"
#include "widgets/live_form.h"

namespace nuvat {

/// Settings of the method under a title that folds them away; each change is a command of its own, made at once.
class MethodForm : public QWidget {
    Q_OBJECT
public:
    /// @param name of the title button; the form is `name` + "Panel"; @param isOpen whether it begins unfolded
    MethodForm(Workspace& workspace, const QString& name, bool isOpen, QWidget* parent);
    /// Opens it and gives it the keyboard.
    void enter();

protected:
    using Edit = std::function<void(Method&, Analyte&)>;
    using NumberEdit = std::function<void(Method&, Analyte&, std::optional<double>)>;
    /// @return whether it was done; the notice bar says why not
    bool change(const Edit& edit);
    /// A field whose number goes into the method, through `edit`.
    NumberField* number(LiveForm* form, const char* name, const QString& title, const NumberEdit& edit,
                        const QString& whenEmpty = {});
    /// A field whose number is taken by `take`, which says whether it holds.
    NumberField* numberTaken(LiveForm* form, const char* name, const QString& title,
                             std::function<bool(std::optional<double>)> take, const QString& whenEmpty = {});
    /// A field whose text is taken by `take`, which says whether it holds.
    TextField* line(LiveForm* form, const char* name, const QString& title, std::function<bool(const QString&)> take);
    void setTitle(const QString& title, const QString& subtitle);
    /// A part that begins folded away.
    LiveForm* addPart(const QString& name, const QString& title);
    void showOpen();
    LiveForm* form() const { return m_form; }
    /// Shows what holds. Called after every change while it can be seen, and when it comes to sight.
    virtual void refresh() = 0;
    void showEvent(QShowEvent* event) override;
    Workspace& m_workspace;

private:
    QPushButton* makeTitle(const QString& name, bool isOpen);
    QPushButton* m_title;
    QLabel* m_subtitle;
    LiveForm* m_form;
    std::vector<std::pair<QPushButton*, LiveForm*>> m_parts; ///< title and what folds away under it
};

} // namespace nuvat
