#pragma once

#include "chain/chain.h"
#include "session/workspace.h"

#include <QPainter>

namespace nuvat {

/// What cards of the chain show of runs: some of the traces, the peak of the analyte. @return false for other cards
bool drawTracePicture(ChainPage page, QPainter& painter, const QRectF& area, Workspace& workspace);
/// "24 runs · 1 channel", "Area of 4 analytes · 3 not found"; empty for other cards.
QString traceSummary(ChainPage page, const Batch& batch, const Evaluation& whole, int analyte);

} // namespace nuvat
