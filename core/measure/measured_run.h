// SPDX-License-Identifier: Apache-2.0
// One setup at one value, measured in one round of a transect. Private to measure/.
#pragma once

#include <fell/measure/transect.h>

#include <nlohmann/json.hpp>

#include <span>
#include <stop_token>
#include <vector>

namespace fell::measure {

/// Raw samples of one setup at one value over all rounds.
struct Samples { // NOLINT(bugprone-exception-escape): the JSON library does not mark its moves
    const Setup* setup = nullptr;
    char side = 'A';
    nlohmann::json value, second;
    std::vector<double> cpuMs, gpuMs; // next to frameMs
    std::vector<double> meshNs, frameMs, ready, chunks, triangles, drawCalls, changeMs;
    std::vector<double> meshInReferences; // next to meshNs; 0 where the reference was not taken
    ChurnCost churn;
    std::uint64_t residentChunks = 0, gpuBytes = 0, processBytes = 0;
    bool full = false;
    std::uint64_t failedChunks = 0;
    std::string firstError;
    int warmUp = 0;
    struct Round { // where its samples begin
        std::size_t mesh = 0, frames = 0, changes = 0;
    };
    std::vector<Round> rounds;
    std::vector<CullTrialRow> steps, passes;
    ViewMeshes firstView;
    std::vector<double> firstViewNs; // thread time of all meshes of the first view, a round each
    double squareKm = 0;
    int edge = 0;

    /// The samples of one round.
    [[nodiscard]] std::span<const double> framesOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].frames : frameMs.size();
        return std::span(frameMs).subspan(rounds[round].frames, end - rounds[round].frames);
    }
    [[nodiscard]] std::span<const double> meshOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].mesh : meshNs.size();
        return std::span(meshNs).subspan(rounds[round].mesh, end - rounds[round].mesh);
    }
    void addMesh(double ns, double referenceNs)
    {
        meshNs.push_back(ns);
        meshInReferences.push_back(referenceNs > 0 ? ns / referenceNs : 0);
    }
    /// The median of the round's meshes in references; 0 without any.
    [[nodiscard]] double inReferences(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].mesh : meshInReferences.size();
        return percentile(std::span(meshInReferences).subspan(rounds[round].mesh, end - rounds[round].mesh), 50);
    }
    [[nodiscard]] std::span<const double> changesOf(std::size_t round) const
    {
        const std::size_t end = round + 1 < rounds.size() ? rounds[round + 1].changes : changeMs.size();
        return std::span(changeMs).subspan(rounds[round].changes, end - rounds[round].changes);
    }
};

/// The row of a table that these samples make.
TransectRow rowOf(const Samples& from);

/// Adds a round to the samples: a separate world, from nothing, settled and flown along the route. False if it was
/// stopped.
bool measureRound(const TransectSpec& spec, Samples& samples, const DrawHooks* hooks, const std::stop_token& stop);

} // namespace fell::measure
