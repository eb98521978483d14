#pragma once

#include "chain/chain.h"
#include "session/workspace.h"

#include <functional>
#include <QPainter>
#include <QWidget>
#include <span>

namespace nuvat {

class Page;

/// What a page shows of places.
enum class ViewMode { Heat, Number, HeatAndNumber, Roles, Responses };

/// What heat and numbers of a plate stand for: what was read (as the analyte's rule takes it), the corrected response,
/// what the curve says, the CV of the replicate group, how the result stands, its class among the decision limits, or
/// what the well showed over time.
enum class PlateQuantity { Reading, Response, Concentration, Cv, Status, Class, OverTime };

/// What a page shows of one kind: a widget that selects places, paints roles and takes the keys as every other does.
class KindView {
public:
    virtual ~KindView() = default;
    virtual QWidget* widget() = 0;
    virtual void setMode(ViewMode) {}
    virtual void setQuantity(PlateQuantity) {}
    /// Ends of the heat scale; absent: the lowest and highest value that is shown.
    virtual void setScale(std::optional<double> low, std::optional<double> high) = 0;
    /// Lowest and highest value that is shown, or nothing.
    virtual std::optional<std::pair<double, double>> valueRange() const = 0;
    /// With a brush, a finished drag paints instead of selecting.
    virtual void setBrush(std::optional<Role> brush) = 0;
};

/// What the window knows of a kind of carrier and of what is read there. One implementation a folder.
class ReadingKind {
public:
    using Painted = std::function<void(const std::vector<Place>&)>;
    virtual ~ReadingKind() = default;
    virtual CarrierKind carrier() const = 0;
    /// Whether what lies on a carrier is of this kind.
    virtual bool isOf(const Batch& batch, int number) const { return batch.carriers.at(number).kind == carrier(); }
    /// @param name of the widget, for tests and accessibility; the kind adds its own word where it is not a plate
    /// @param painted what is done with the places that a brush went over
    virtual KindView* makeView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent,
                               const Painted& painted) const = 0;
    /// Whether it has a page of its own in the place of the one that all kinds share, and that page.
    virtual bool hasPage(ChainPage) const { return false; }
    virtual Page* makePage(ChainPage, Workspace&, QWidget*) const { return nullptr; }
    /// The picture on a card of the chain. @return false: the one that all kinds share
    virtual bool drawPicture(ChainPage, QPainter&, const QRectF&, Workspace&) const { return false; }
    /// What a card says of what was read; empty: what it says of all kinds.
    virtual QString summary(ChainPage, const Batch&, const Evaluation&, int /*analyte*/) const { return {}; }
    /// How many places stand side by side in the picture of a card.
    virtual int columnsOfPicture(const Carrier& carrier) const = 0;
};

/// All kinds. An explicit list: what registers itself vanishes from a static library.
std::span<const ReadingKind* const> readingKinds();
const ReadingKind& kindOf(CarrierKind carrier);
/// The kind of what lies on a carrier: of several that it may be, the last of the list.
const ReadingKind& kindOf(const Batch& batch, int carrier);

} // namespace nuvat
