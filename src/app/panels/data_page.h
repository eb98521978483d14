#pragma once

#include "kinds/reading_kind.h"
#include "nuvat/core/stats/position_effects.h"
#include "panels/page.h"

#include <memory>

class QLabel;

namespace nuvat {

class Choice;
class ColumnsModel;
class DataTable;
class EffectsPicture;
class HeatScale;
class CarrierView;
class SharedProgress;
struct PlateValues;

/// What the instrument gave: the plate as heat map and numbers, the readings of the batch, what of it is unusable.
class DataPage : public Page {
    Q_OBJECT
public:
    DataPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override;
    QString facts() const override;
    void copy() const override; ///< the plate as a matrix with row letters and column numbers
    std::vector<PageAction> actions() override;
    CarrierView* plate() const { return m_plate; }

private:
    QLayout* makeTop();
    QWidget* makeReadings();
    QWidget* makeFacts();
    QWidget* makeEmpty();
    std::function<void()> ask(const char* id); ///< does one of the window's actions
    void nextUnusable();
    void cycleShow();
    void offerOverTime();
    void refresh() override;
    void refreshEffects();
    void followScale();
    PlateQuantity quantity() const;
    void showEffects(const std::optional<PositionEffects>& effects);
    const Reading* shownReading() const;
    QString cellText(const Grid& grid, Place place, const PlateValues& values) const;
    CarrierView* m_plate;
    Choice* m_of;
    Choice* m_show;
    HeatScale* m_scale;
    QLabel* m_facts;
    QLabel* m_unusable;
    QLabel* m_effectsWords;
    QLabel* m_effectsLargest;
    EffectsPicture* m_effects;
    std::vector<PlacedValue> m_effectsOf; ///< what the effects shown are those of
    std::shared_ptr<SharedProgress> m_effectsJob;
    ColumnsModel* m_readings;
    DataTable* m_readingsTable;
    QWidget* m_empty;
    QWidget* m_full;
    std::pair<double, double> m_range{0, 0};
};

} // namespace nuvat
