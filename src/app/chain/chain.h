#pragma once

#include <QString>
#include <span>

class QWidget;

namespace nuvat {

class Page;
class Workspace;

/// Pages in the order of the work.
enum class ChainPage { Data, Layout, Response, Curve, Checks, Results, Report };
inline constexpr int kChainPages = 7;

/// One link of the chain: a card of the rail and the page behind it.
struct ChainLink {
    ChainPage page;
    const char* title; ///< to be translated
    Page* (*make)(Workspace& workspace, QWidget* parent);
};
/// All of them, in order.
std::span<const ChainLink> chain();
QString pageTitle(ChainPage page);

} // namespace nuvat
