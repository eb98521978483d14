#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

// Parts of a layout that are copied, moved and turned. As in command.h each looks at the batch and returns the command
// that does it.

/// What a place is called in a layout that is copied: "S1", "Blank", "QC 2", "U07", "U07.2", "U07 sp", "U07 +1"; empty
/// for an empty place. Independent of the names that QCs were given.
std::string layoutCode(Assignment assignment);
/// The assignment of a code, also of a QC's name, in any case of letters. @return nothing when it is none
std::optional<Assignment> assignmentFromCode(const Batch& batch, const std::string& code);

/// The layout of the smallest rectangle that holds the places, as a matrix of codes under column numbers with row
/// letters before them, tab-separated. @param places all on one carrier; those of the rectangle that are not among them
/// are empty
std::string copyLayout(const Batch& batch, const std::vector<Place>& places);
/// Puts a block of codes, with or without headings, where its top left corner goes. Places get the roles and numbers
/// that they had there, so that further places of a group are further replicates of it; empty cells leave a place as it
/// is.
/// @return layout.code with line and cell, layout.beyond when it reaches over the edge, layout.block-empty
Result<Command> pasteLayout(const Batch& batch, Place corner, const std::string& text);
/// Whether a text is such a block: more than one cell, all of them codes.
bool isLayoutBlock(const Batch& batch, const std::string& text);

enum class Mirror { LeftRight, TopBottom, HalfTurn };
/// Turns the layout of a carrier, as when the plate was put in the wrong way round. Exclusions stay with their wells:
/// they are about what was read there.
Result<Command> mirrorLayout(const Batch& batch, int carrier, Mirror how);
/// Moves what sits in places by rows and columns; what sits where it goes is replaced. @return layout.beyond
Result<Command> moveLayout(const Batch& batch, const std::vector<Place>& places, int rows, int columns);
/// Copies what sits on a carrier to another of the same size, with numbers that go on: its unknowns become further
/// ones, standards, QCs and blanks stay what they are. @return layout.size when the sizes differ
Result<Command> copyLayoutTo(const Batch& batch, int from, int to);

/// What leads to the places, levels, QCs and samples of another layout of the same carriers.
/// @return the errors of validate for what cannot stand in a batch
Result<Command> layoutChange(const Batch& batch, const Batch& after, std::string label);

} // namespace nuvat
