#pragma once

#include <functional>
#include <QFrame>
#include <QLineEdit>
#include <vector>

class QLabel;
class QPushButton;
class QTimer;
class QToolButton;
class QStandardItemModel;

namespace nuvat {

class Actions;

/// One thing the finder can find.
struct Finding {
    QString text;
    QString hint; ///< shortcut or kind, shown behind it
    std::function<void()> go;
};

/// Finds actions, samples and places by typing.
class Finder : public QLineEdit {
    Q_OBJECT
public:
    /// @param find what can be found now; asked each time the finder gets the focus
    Finder(std::function<std::vector<Finding>()> find, QWidget* parent);

protected:
    void focusInEvent(QFocusEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void go(int index);
    std::function<std::vector<Finding>()> m_find;
    std::vector<Finding> m_findings;
    QStandardItemModel* m_model;
};

/// A sentence above the page: what happened, where, what to do. Errors stay until closed.
class NoticeBar : public QFrame {
    Q_OBJECT
public:
    explicit NoticeBar(QWidget* parent);
    void tell(const QString& sentence, bool isError);
    /// A sentence with a button that does what usually comes next; stays longer than one without.
    void offer(const QString& sentence, const QString& buttonText, std::function<void()> action);
    /// Takes an offer away: what it would do belonged to the batch as it was.
    void withdrawOffer();
    /// A running job with a way to cancel it; told away by tell() or done().
    void busy(const QString& what, std::function<void()> cancel);
    void done();
    QString sentence() const;

private:
    void dropOffer();
    QLabel* m_label;
    QPushButton* m_action;
    QPushButton* m_button;
    QTimer* m_timer;
    std::function<void()> m_cancel;
    std::function<void()> m_offered;
    bool m_isBusy = false;
};

/// Facts about the selection on the left, the few keys that matter on the right.
class StatusLine : public QFrame {
    Q_OBJECT
public:
    explicit StatusLine(QWidget* parent);
    void show(const QString& facts, const QString& keys);
    QString facts() const;

private:
    QLabel* m_facts;
    QLabel* m_keys;
};

} // namespace nuvat
