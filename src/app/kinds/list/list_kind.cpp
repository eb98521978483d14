#include "kinds/list/list_kind.h"

#include "kinds/list/run_list_view.h"

#include <algorithm>

namespace nuvat {

namespace {

class ListKind : public ReadingKind {
public:
    CarrierKind carrier() const override { return CarrierKind::RunList; }
    KindView* makeView(Workspace& workspace, ViewMode, const QString& name, QWidget* parent,
                       const Painted& painted) const override {
        auto* view = new RunListView(workspace, parent);
        view->setObjectName(name + QStringLiteral("List"));
        QObject::connect(view, &RunListView::painted, view, painted);
        return view;
    }
    /// As many runs as have room stand side by side, in about four rows.
    int columnsOfPicture(const Carrier& carrier) const override {
        constexpr int kRows = 4;
        constexpr int kMost = 24;
        return std::clamp(carrier.rows / kRows, 1, kMost);
    }
};

} // namespace

const ReadingKind& listKind() {
    static const ListKind kind;
    return kind;
}

} // namespace nuvat
