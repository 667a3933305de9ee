// SPDX-License-Identifier: Apache-2.0
// What is wrong with something that came from outside, said in one sentence.
// Files, arguments and the machine itself can be wrong; none of that is a bug, so it is a value and never an exception.
#pragma once

#include <fell/namespaces.h>

#include <cassert>
#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <variant>

namespace fell::input {

/// One thing that is wrong: where, what, and what would be allowed.
struct Problem {
    std::string where; // a file, "--set", "the graphics driver"; may be empty
    std::string pointer; // RFC 6901 JSON pointer into `where`; empty outside JSON
    std::string what; // the sentence, without a full stop, allowed values included
};

/// The first bytes of UTF-8 `text`, at most `most`, without a character that is cut in two.
std::string cutText(const std::string& text, std::size_t max);

/// "1 chunk", "2 chunks": of words that take an s.
std::string counted(std::uint64_t count, const std::string& one);

/// Is it UTF-8 as RFC 3629 defines it: no byte that is none of it, no surrogate, nothing longer than needed?
bool isUtf8(std::string_view text);

/// `where`, pointer and sentence as one line for a person.
std::string sentence(const Problem& problem);

/// A value, or the problem that kept it from coming to be.
template <typename T> class Outcome {
public:
    Outcome(T value)
        : m_held(std::move(value))
    {
    }
    Outcome(Problem problem)
        : m_held(std::move(problem))
    {
    }
    [[nodiscard]] explicit operator bool() const { return std::holds_alternative<T>(m_held); }
    [[nodiscard]] const T& value() const
    {
        assert(*this);
        return *std::get_if<T>(&m_held);
    }
    [[nodiscard]] T take()
    {
        assert(*this);
        return std::move(*std::get_if<T>(&m_held));
    }
    [[nodiscard]] const Problem& problem() const
    {
        assert(!*this);
        return *std::get_if<Problem>(&m_held);
    }

private:
    std::variant<T, Problem> m_held;
};

} // namespace fell::input
