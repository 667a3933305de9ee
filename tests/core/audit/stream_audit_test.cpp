// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/stream_audit.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::stream_audit_test {
namespace {

StreamAuditSpec someSpec()
{
    StreamAuditSpec spec;
    spec.setup = test::unlitSetup();
    spec.terrain = test::testTerrain();
    spec.setup.chunk.edge = 16;
    spec.setup.stream.distance = 2;
    spec.setup.stream.workers = 2;
    spec.journeys = 6;
    return spec;
}

TEST(StreamAudit, FindsNothingWrongWithTheStreamer)
{
    const AuditRow row = auditStream(someSpec());
    EXPECT_EQ(row.differences, 0u) << row.first;
    EXPECT_GT(row.cases, 100u);
    EXPECT_FALSE(row.stopped);
}

TEST(StreamAudit, FindsGraphicsMemoryThatIsNotGivenBack)
{
    StreamAuditSpec spec = someSpec();
    std::uint64_t held = 0;
    spec.hooks.apply
        = [&held](const StreamEvent& event) { held += event.kind == StreamEvent::Kind::Upload && !event.mesh.isBare; };
    spec.hooks.usedBytes = [&held] { return held; };
    const AuditRow row = auditStream(spec);
    EXPECT_GT(row.differences, 0u);
    EXPECT_NE(row.first.find("graphics memory"), std::string::npos) << row.first;
}

TEST(StreamAudit, CanBeStopped)
{
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(auditStream(someSpec(), source.get_token()).stopped);
}

} // namespace
} // namespace fell::stream_audit_test
