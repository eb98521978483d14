#pragma once

#include "nuvat/batch/command.h"

#include <map>

namespace nuvat {

template<class T, class Map, class Key> std::optional<T> findOptional(const Map& map, const Key& key) {
    const auto found = map.find(key);
    return found == map.end() ? std::nullopt : std::optional<T>(found->second);
}

/// Adds a change unless it changes nothing.
template<class Key, class T>
void add(Command& command, Key key, const std::optional<T>& before, const std::optional<T>& after) {
    if (before != after) {
        command.changes.push_back(ItemChange<Key, T>{key, before, after});
    }
}

/// Adds what leads from one map to the other.
template<class Key, class T>
void addDifferences(Command& command, const std::map<Key, T>& before, const std::map<Key, T>& after) {
    std::map<Key, T> all = before;
    all.insert(after.begin(), after.end());
    for (const auto& [key, value] : all) {
        add(command, key, findOptional<T>(before, key), findOptional<T>(after, key));
    }
}

/// Names of places for a sentence; more than five are counted.
std::string placesText(const Batch& batch, std::vector<Place> places);

/// What differs between two methods, for the history.
std::string methodLabel(const Method& before, const Method& after);

/// Gives items other keys. @param move gives the new key of one, or nothing: it goes
template<class Key, class T, class Move>
void moveKeys(Command& command, const std::map<Key, T>& before, const Move& move) {
    std::map<Key, T> after;
    for (const auto& [key, item] : before) {
        if (const std::optional<Key> moved = move(key)) {
            after.emplace(*moved, item);
        }
    }
    addDifferences(command, before, after);
}

/// @return layout.place
inline Result<void> requirePlace(const Batch& batch, Place place) {
    if (!batch.holds(place)) {
        return fail("layout.place", "There is no " + placeName(batch, place) + " in this batch.",
                    "Choose a place of the batch.");
    }
    return {};
}

/// @return method.no-analyte
inline Result<void> requireAnalyte(const Batch& batch, int analyte) {
    if (analyte < 1 || static_cast<std::size_t>(analyte) > batch.method.analytes.size()) {
        return fail("method.no-analyte", "The method has no analyte " + std::to_string(analyte) + ".",
                    "Add it to the method.");
    }
    return {};
}

} // namespace nuvat
