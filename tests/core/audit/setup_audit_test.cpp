// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/setup_audit.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::setup_audit_test {
namespace {

TEST(SetupAudit, TakesEachMesherThatWillBeMeasuredAndTheLight)
{
    TransectSpec spec;
    spec.a = test::unlitSetup();
    spec.terrain = test::testTerrain();
    spec.a.light.mode = "none";
    spec.b = spec.a;
    spec.a.mesh.mesher = "exposed";
    spec.b->mesh.mesher = "every";
    spec.values = {1};
    auto notes = auditMethodsOf(spec);
    ASSERT_EQ(notes.size(), 2u);
    EXPECT_EQ(notes[0].what, "mesh, every");
    EXPECT_EQ(notes[1].what, "mesh, exposed");
    for (const AuditNote& note : notes) {
        EXPECT_GE(note.cases, 50u);
        EXPECT_EQ(note.differences, 0u);
    }
    spec.vary = "mesh.mesher";
    spec.values = {"greedy"};
    spec.second = "light.mode";
    spec.secondValues = {"none", "lamp-sky"};
    notes = auditMethodsOf(spec);
    ASSERT_EQ(notes.size(), 2u) << "what varies replaces the setups' own";
    EXPECT_EQ(notes[0].what, "mesh, greedy");
    EXPECT_EQ(notes[1].what, "light");
    EXPECT_EQ(notes[1].differences, 0u);
}

} // namespace
} // namespace fell::setup_audit_test
