// SPDX-License-Identifier: Apache-2.0
// Tests of models whose threads report through Qt's event loop, without a window.
#pragma once

#include "support/all_names.h"

#include <QCoreApplication>
#include <gtest/gtest.h>

namespace fell::test {

/// One application for all tests of the suite.
class EventLoopTest : public testing::Test {
protected:
    static void SetUpTestSuite()
    {
        static int none = 0;
        new QCoreApplication(none, nullptr);
    }
    static void TearDownTestSuite() { delete QCoreApplication::instance(); }
};

} // namespace fell::test
