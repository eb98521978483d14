#pragma once

#include "session/workspace.h"

#include <functional>
#include <QWidget>
#include <span>

namespace nuvat {

/// What a page shows of places.
enum class ViewMode { Heat, Number, HeatAndNumber, Roles, Responses };

/// What a page shows of one kind: a widget that selects places, paints roles and takes the keys as every other does.
class KindView {
public:
    virtual ~KindView() = default;
    virtual QWidget* widget() = 0;
    virtual void setMode(ViewMode) {}
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
    /// @param name of the widget, for tests and accessibility; the kind adds its own word where it is not a plate
    /// @param painted what is done with the places that a brush went over
    virtual KindView* makeView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent,
                               const Painted& painted) const = 0;
    /// How many places stand side by side in the picture of a card.
    virtual int columnsOfPicture(const Carrier& carrier) const = 0;
};

/// All kinds. An explicit list: what registers itself vanishes from a static library.
std::span<const ReadingKind* const> readingKinds();
const ReadingKind& kindOf(CarrierKind carrier);

} // namespace nuvat
