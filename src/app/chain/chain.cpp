#include "chain/chain.h"

#include "panels/checks_page.h"
#include "panels/curve_page.h"
#include "panels/data_page.h"
#include "panels/layout_page.h"
#include "panels/report_page.h"
#include "panels/response_page.h"
#include "panels/results_page.h"

#include <array>
#include <QObject>

namespace nuvat {

namespace {

template<class P> Page* make(Workspace& workspace, QWidget* parent) {
    return new P(workspace, parent);
}

constexpr std::array<ChainLink, kChainPages> kChain{{
    {ChainPage::Data, QT_TRANSLATE_NOOP("QObject", "Data"), &make<DataPage>},
    {ChainPage::Layout, QT_TRANSLATE_NOOP("QObject", "Layout"), &make<LayoutPage>},
    {ChainPage::Response, QT_TRANSLATE_NOOP("QObject", "Response"), &make<ResponsePage>},
    {ChainPage::Curve, QT_TRANSLATE_NOOP("QObject", "Curve"), &make<CurvePage>},
    {ChainPage::Checks, QT_TRANSLATE_NOOP("QObject", "Checks"), &make<ChecksPage>},
    {ChainPage::Results, QT_TRANSLATE_NOOP("QObject", "Results"), &make<ResultsPage>},
    {ChainPage::Report, QT_TRANSLATE_NOOP("QObject", "Report"), &make<ReportPage>},
}};

} // namespace

std::span<const ChainLink> chain() {
    return kChain;
}

QString pageTitle(ChainPage page) {
    return QObject::tr(kChain.at(static_cast<std::size_t>(page)).title);
}

} // namespace nuvat
