// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/all_names.h"
#include <fell/app/models/view_state.h>

#include <gtest/gtest.h>

namespace fell::view_state_test {
namespace {

TEST(ViewState, SaysOnceWhatIsOtherThanBeforeAndNothingElse)
{
    ViewState state;
    int told = 0;
    FieldLook seen;
    QObject::connect(&state, &ViewState::changed, [&] {
        ++told;
        seen = *state;
    });
    state.change([](FieldLook& look) {
        look.paint = Paint::Light;
        look.channel = 2;
    });
    EXPECT_EQ(told, 1) << "two parts, one change";
    EXPECT_EQ(seen.paint, Paint::Light);
    EXPECT_EQ(seen.channel, 2);
    state.change([](FieldLook& look) { look.channel = 2; });
    EXPECT_EQ(told, 1) << "it was so already";
    state.set({});
    EXPECT_EQ(told, 2);
    EXPECT_EQ(state->paint, Paint::Textures);
    state.set({});
    EXPECT_EQ(told, 2);
}

TEST(ViewState, WhoHearsOfAChangeMayChangeItAgain)
{
    ViewState state;
    QObject::connect(&state, &ViewState::changed,
        [&] { state.change([](FieldLook& look) { look.wipe = std::min(look.wipe, 0.9); }); });
    state.change([](FieldLook& look) { look.wipe = 1.5; });
    EXPECT_EQ(state->wipe, 0.9);
}

} // namespace
} // namespace fell::view_state_test
