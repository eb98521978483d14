#include "kinds/trace/trace_kind.h"

#include "kinds/list/list_kind.h"
#include "kinds/trace/trace_cards.h"
#include "kinds/trace/trace_data_page.h"
#include "kinds/trace/trace_response_page.h"

#include <algorithm>

namespace nuvat {

namespace {

/// A run list of which traces were read: it is painted and typed as every list, and looked at trace by trace.
class TraceKind : public ReadingKind {
public:
    CarrierKind carrier() const override { return CarrierKind::RunList; }
    /// A list that is planned for an instrument is one before its first trace.
    bool isOf(const Batch& batch, int number) const override {
        return batch.hasTraces(number) || (batch.carriers.at(number).kind == CarrierKind::RunList &&
                                           std::ranges::any_of(batch.runs, [number](const auto& entry) {
                                               const auto& [place, run] = entry;
                                               return place.carrier == number && run.state != RunState::Done;
                                           }));
    }
    KindView* makeView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent,
                       const Painted& painted) const override {
        return listKind().makeView(workspace, mode, name, parent, painted);
    }
    bool hasPage(ChainPage page) const override { return page == ChainPage::Data || page == ChainPage::Response; }
    Page* makePage(ChainPage page, Workspace& workspace, QWidget* parent) const override {
        if (page == ChainPage::Data) {
            return new TraceDataPage(workspace, parent);
        }
        return page == ChainPage::Response ? new TraceResponsePage(workspace, parent) : nullptr;
    }
    bool drawPicture(ChainPage page, QPainter& painter, const QRectF& area, Workspace& workspace) const override {
        return drawTracePicture(page, painter, area, workspace);
    }
    QString summary(ChainPage page, const Batch& batch, const Evaluation& whole, int analyte) const override {
        return traceSummary(page, batch, whole, analyte);
    }
    int columnsOfPicture(const Carrier& carrier) const override { return listKind().columnsOfPicture(carrier); }
};

} // namespace

const ReadingKind& traceKind() {
    static const TraceKind kind;
    return kind;
}

} // namespace nuvat
