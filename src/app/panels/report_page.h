#pragma once

#include "panels/page.h"
#include "session/report_layout.h"

class QGridLayout;
class QLabel;
class QScrollArea;

namespace nuvat {

class BlockList;
class PagesView;
class Switch;
class TextField;

/// What goes into the report, with a live preview of its pages.
class ReportPage : public Page {
    Q_OBJECT
public:
    ReportPage(Workspace& workspace, QWidget* parent);
    QString keysHint() const override { return tr("Alt+↑ ↓ moves a block · Ctrl+E save as PDF"); }
    QString facts() const override;

private:
    QWidget* makeBlocks();
    QWidget* makeMargins();
    TextField* field(QGridLayout* grid, const char* name, const QString& title, std::string Method::*member);
    bool change(const std::function<void(Method&)>& edit, const std::string& label);
    void moveBlock(std::size_t from, std::size_t to);
    void switchBlock(std::size_t index, bool isIn);
    void refreshBlocks();
    void refreshMargins();
    void refresh() override;
    void showPages();
    BlockList* m_blocks;
    std::vector<std::pair<TextField*, std::string Method::*>> m_fields;
    std::vector<std::pair<Switch*, std::string>> m_whenComplete;
    QLabel* m_example;
    PagesView* m_pages;
};

} // namespace nuvat
