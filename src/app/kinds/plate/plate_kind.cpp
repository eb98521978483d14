#include "kinds/plate/plate_kind.h"

#include "kinds/plate/plate_view.h"

namespace nuvat {

namespace {

class PlateKind : public ReadingKind {
public:
    CarrierKind carrier() const override { return CarrierKind::Plate; }
    KindView* makeView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent,
                       const Painted& painted) const override {
        auto* view = new PlateView(workspace, mode, parent);
        view->setObjectName(name);
        QObject::connect(view, &PlateView::painted, view, painted);
        return view;
    }
    int columnsOfPicture(const Carrier& carrier) const override { return carrier.columns; }
};

} // namespace

const ReadingKind& plateKind() {
    static const PlateKind kind;
    return kind;
}

} // namespace nuvat
