// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/audit/keep_audit.h>
#include <fell/audit/order_audit.h>
#include <fell/demo/demo_folder.h>

#include <gtest/gtest.h>

namespace fell::order_keep_audit_test {
namespace {

TEST(OrderAudit, FindsNoDifferenceInWorldsWithEveryKindOfLayer)
{
    for (const auto& terrain : {test::testTerrain(), test::demoTerrain("dust")}) {
        const AuditRow row = auditOrder({terrain, 54, 3, {}});
        EXPECT_GE(row.cases, 54u);
        EXPECT_EQ(row.differences, 0u) << row.first;
        EXPECT_FALSE(row.stopped);
    }
}

TEST(OrderAudit, StopsWhenItIsAskedTo)
{
    std::stop_source stop;
    stop.request_stop();
    EXPECT_TRUE(auditOrder({test::testTerrain(), 1000, 1, {}}, stop.get_token()).stopped);
}

TEST(KeepAudit, FindsNoDifferenceAndLeavesNoFile)
{
    const test::TempFolder folder;
    auto recipe = findWorld("corrowdale", demoFolder());
    const AuditRow row = auditKeep({makeTerrain(recipe.take()), 600, 5, folder.path(), {}});
    EXPECT_EQ(row.cases, 600u) << "three files, one for each grouping";
    EXPECT_EQ(row.differences, 0u) << row.first;
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(KeepAudit, AFileThatCannotBeMadeIsADifference)
{
    const AuditRow row = auditKeep({test::demoTerrain("level"), 10, 1, "/proc/nowhere", {}});
    EXPECT_GT(row.differences, 0u);
    EXPECT_NE(row.first.find("cannot be made"), std::string::npos) << row.first;
}

} // namespace
} // namespace fell::order_keep_audit_test
