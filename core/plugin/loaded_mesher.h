// SPDX-License-Identifier: Apache-2.0
// Meshers from shared libraries: the C interface of include/fell/method.h as an entry of the table of meshers.
#pragma once

#include <fell/input/problem.h>
#include <fell/mesh/meshers.h>

#include <fell/method.h>

#include <filesystem>
#include <string>

namespace fell::plugin {

/// What a library says of itself, copied.
struct MethodInfo {
    std::string name, title, note;
    MesherTraits traits;
};

/// A mesher of a library, called without a copy of the voxels.
class LibraryMesher : public OutsideMesher {
public:
    void mesh(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out) const final
    {
        meshAt(voxels.voxels.data(), voxels.edge, voxels.apron, rules, out);
    }
    /// The same of voxels that lie anywhere, in the order of PaddedVoxels.
    virtual void meshAt(
        const Material* voxels, int edge, int apron, const MeshRules& rules, ChunkSurface& out) const = 0;
    /// Makes a state and destroys it, as Fell does for a thread that is needed once.
    virtual void makeState() const = 0;
};

/// Opens a library and reads what it says. Its code runs in this process: libraries that have not been checked are
/// opened in a separate process (audit/method_check.h). It stays open.
/// Errors  no shared library; no fell_method; another version or kind; a name, apron or text that is not allowed.
class Library {
public:
    static Outcome<Library> open(const std::filesystem::path& file);
    /// The same of a copy of the file; `named` is shown in errors.
    static Outcome<Library> openCopy(const std::filesystem::path& copy, const std::filesystem::path& named);
    /// A method that is linked in, which lives as long as the process. Errors: as above; `name` is shown in errors.
    static Outcome<Library> adopt(const FellMethod& method, const std::filesystem::path& name);
    [[nodiscard]] const MethodInfo& info() const { return m_info; }
    /// A mesher that calls it; lives until the end of the process. States are made as threads need them and kept.
    [[nodiscard]] const LibraryMesher& mesher() const { return *m_mesher; }

private:
    MethodInfo m_info;
    const LibraryMesher* m_mesher = nullptr;
};

/// The eight digits that stand for a file's bytes in the id of a method, e.g. "rows@5d41402a".
/// Errors  a file that cannot be read, or has more than 1 GiB. Source  FNV-1a, Fowler, Noll and Vo, 1991, folded to 32
/// bits.
Outcome<std::string> hashOf(const std::filesystem::path& file);

/// Adds the mesher of a library to the table: its id is "name@hash". A file that was added before gives the same entry.
/// A copy is loaded, which has no name: the file may be written again meanwhile, and the new one loaded too. A library
/// that finds others next to itself, and so cannot be loaded elsewhere, is loaded as it is. Call it for libraries that
/// were checked.
/// `checked`: hashOf as it was before the check; empty: it is not asked.
/// Errors  what Library::open and hashOf say; a file that is another than the checked one; the name of a mesher of
/// Fell's own; kMaxOutsideMeshers are there. Threads  any.
Outcome<const Mesher*> loadMesher(const std::filesystem::path& file, const std::string& checked = {});

} // namespace fell::plugin
