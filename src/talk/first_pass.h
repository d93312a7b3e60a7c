// First pass: what a space needs for a conversation, as proposals with a reason each. Nothing is done before it is
// said.
#pragma once
#include "talk/conversation.h"
#include "talk/proposal.h"

namespace loom::project {

// What is there already is not proposed again. Values that differ from their defaults and from what a first pass set
// there (Block::marks "first-pass") were set by hand.
FirstPass firstPassOf(const Project& project, const SpaceOf& space, std::stop_token stop = {});
// Those that are ticked, as one step.
Edit takeFirstPass(const FirstPass& pass, const std::vector<std::string>& ids);

// Of every space that talks: what is ticked by itself is done, and spaces that share a device are worked out one after
// another, those of closed walls first.
struct FirstPasses {
    Project after{};
    std::size_t spaces = 0, proposals = 0; // in which anything was done, and how much
    std::size_t byHand = 0;                // left as somebody set it
    std::vector<std::string> cannot{};     // as FirstPass::cannot, of all
};
// progress: how many spaces were begun before this one, of how many; one call at a time, from any thread. Error: it
// was stopped.
Result<FirstPasses> firstPassOfAll(const Project& project,
                                   const std::function<void(std::size_t, std::size_t)>& progress = {},
                                   std::stop_token stop = {});

} // namespace loom::project
