#include "peak_editor.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

bool PeakEditor::apply(const PeakEdit& edit) {
    switch (edit.kind) {
    case PeakEditKind::Bounds:
    case PeakEditKind::Line:
        return draw(edit);
    case PeakEditKind::Add:
        return add(edit);
    case PeakEditKind::Remove: {
        const auto found = spanning(edit.at);
        if (found == shapes.end()) {
            return false;
        }
        shapes.erase(found);
        return true;
    }
    case PeakEditKind::Split:
        return split(edit.at);
    case PeakEditKind::Join:
        return join(edit.from, edit.to);
    case PeakEditKind::Give:
        return spanning(edit.at) != shapes.end();
    }
    return false;
}

/// Riders lie within their parents: the narrowest counts.
std::vector<PeakShape>::iterator PeakEditor::spanning(double x) {
    auto best = shapes.end();
    for (auto it = shapes.begin(); it != shapes.end(); ++it) {
        if (it->from <= x && x <= it->to && (best == shapes.end() || it->to - it->from < best->to - best->from)) {
            best = it;
        }
    }
    return best;
}

PeakShape PeakEditor::drawn(double from, double to) const {
    PeakShape out;
    out.from = std::max(from, trace.x.front());
    out.to = std::min(to, trace.x.back());
    out.ground.line = {out.from, interpolated(trace.x, trace.y, out.from), out.to,
                       interpolated(trace.x, trace.y, out.to)};
    out.cluster = clusters;
    return out;
}

bool PeakEditor::draw(const PeakEdit& edit) {
    auto found = spanning(edit.at);
    if (found == shapes.end() && edit.kind == PeakEditKind::Line && add(edit)) {
        found = shapes.end() - 1; // what a person drew a line below is a peak
    }
    if (found == shapes.end() || !(edit.from < edit.to) || edit.from >= trace.x.back() || edit.to <= trace.x.front()) {
        return false;
    }
    PeakShape shape = drawn(edit.from, edit.to);
    shape.isNegative = found->isNegative;
    if (edit.kind == PeakEditKind::Line) {
        shape.ground.line = {edit.from, edit.fromY, edit.to, edit.toY};
    } else if (!found->ground.values.empty()) {
        shape.ground = found->ground; // a background of the whole trace stays
    }
    ++clusters;
    *found = shape;
    return true;
}

bool PeakEditor::add(const PeakEdit& edit) {
    if (!(edit.from < edit.to) || edit.from >= trace.x.back() || edit.to <= trace.x.front()) {
        return false;
    }
    PeakShape shape = drawn(edit.from, edit.to);
    double above = 0, below = 0;
    for (auto i = static_cast<std::size_t>(std::ranges::lower_bound(trace.x, shape.from) - trace.x.begin());
         i < trace.x.size() && trace.x[i] <= shape.to; ++i) {
        const double r = trace.y[i] - shape.ground.line.at(trace.x[i]);
        above = std::max(above, r);
        below = std::min(below, r);
    }
    shape.isNegative = -below > above;
    ++clusters;
    shapes.push_back(shape);
    return true;
}

bool PeakEditor::split(double x) {
    const auto found = spanning(x);
    if (found == shapes.end() || x <= found->from || x >= found->to) {
        return false;
    }
    PeakShape right = *found;
    right.from = x;
    right.split = PeakSplit::Drop;
    found->to = x;
    found->split = PeakSplit::Drop;
    shapes.push_back(std::move(right));
    return true;
}

bool PeakEditor::join(double from, double to) {
    const auto isIn = [&](const PeakShape& shape) { return shape.from < to && shape.to > from; };
    const auto first = std::ranges::find_if(shapes, isIn);
    if (first == shapes.end() || std::ranges::count_if(shapes, isIn) < 2) {
        return false;
    }
    double start = first->from, end = first->to;
    bool isOneCluster = true;
    const PeakShape one = *first;
    for (const PeakShape& shape : shapes) {
        if (isIn(shape)) {
            start = std::min(start, shape.from);
            end = std::max(end, shape.to);
            isOneCluster = isOneCluster && shape.cluster == one.cluster && shape.split != PeakSplit::Skim;
        }
    }
    std::erase_if(shapes, isIn);
    PeakShape joined = drawn(start, end);
    joined.isNegative = one.isNegative;
    if (isOneCluster || !one.ground.values.empty()) {
        joined.ground = one.ground;
        joined.cluster = one.cluster;
    } else {
        ++clusters;
    }
    shapes.push_back(std::move(joined));
    return true;
}

} // namespace nuvat
