// SPDX-License-Identifier: GPL-3.0-or-later
// What lies under the pointer, and what is said of it and of its light. Knows no window.
#pragma once

#include <fell/app/models/light_story.h>
#include <fell/app/models/pointer.h>
#include <fell/app/models/world_session.h>

#include <QElapsedTimer>

namespace fell::app {

/// A class because it remembers what it saw last: it looks ten times a second at most.
class FieldProbe {
public:
    FieldProbe() { m_since.start(); }

    /// Along `direction` from the session's eye, into setup A's world or B's, now or soon.
    void look(WorldSession& session, bool b, const glm::dvec3& direction);
    void clear();

    [[nodiscard]] const std::optional<Pointed>& pointed() const { return m_pointed; }
    [[nodiscard]] bool isOfB() const { return m_isOfB; }
    /// The light before it; where the setup has light.
    [[nodiscard]] const std::optional<LightStory>& light() const { return m_light; }
    /// In a line. `held`: what the renderer has of the chunk, where that is known.
    [[nodiscard]] QString text(const WorldSession& session, const std::optional<ChunkFigures>& held) const;

private:
    QElapsedTimer m_since;
    std::shared_ptr<const LodCover> m_cover; // that m_shown is of
    ShownChunks m_shown;
    std::optional<Pointed> m_pointed;
    bool m_isOfB = false;
    std::optional<LightStory> m_light;
    QString m_missing; // why a chunk is not there
};

} // namespace fell::app
