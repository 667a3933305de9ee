// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/ledger.h>

#include <fell/input/json_reader.h>
#include <fell/measure/mesh_rounds.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <xxhash.h>

#include <cstdlib>

namespace fell::measure {

Outcome<TransectResult> asComparison(const TransectResult& first, const TransectResult& second)
{
    const auto problem = [](const std::string& what) { return Problem{"", "", what}; };
    if (first.vary != second.vary || first.second != second.second)
        return problem("one trial varied " + variedIn(first) + ", the other " + variedIn(second)
            + "; two of the same are expected");
    TransectResult out = first;
    out.b = second.a;
    out.inTurn = false;
    out.rows.clear();
    out.ratios.clear();
    out.audits.insert(out.audits.end(), second.audits.begin(), second.audits.end());
    for (const TransectRow& a : first.rows)
        for (const TransectRow& b : second.rows) {
            if (a.side != 'A' || b.side != 'A' || a.value != b.value || a.second != b.second)
                continue;
            out.rows.push_back(a);
            out.rows.push_back(b);
            out.rows.back().side = 'B';
            const MeshRounds mesh
                = comparableRounds(a.meshRounds, a.roundsInReferences, b.meshRounds, b.roundsInReferences);
            using Rounds = std::span<const double>;
            for (const auto& [what, as, bs] :
                {std::tuple<const char*, Rounds, Rounds>{"frame_ms", a.frameRounds, b.frameRounds},
                    {"mesh_ns", mesh.a, mesh.b}})
                if (const Ratio ratio = ratioOfUnpaired(as, bs); ratio.ratio > 0)
                    out.ratios.push_back({a.value, what, ratio, a.second});
        }
    if (out.rows.empty())
        return problem("the two trials have no value of " + variedIn(first) + " in common");
    out.remarks.push_back("These are two trials, measured at " + first.machine.date + " and " + second.machine.date
        + ", not in turn: what changed on the machine between them is in the ratio.");
    const auto differs = [&out](const char* what, const std::string& a, const std::string& b) {
        if (a != b)
            out.remarks.push_back(std::string(what) + " differs: A's is " + a + ", B's is " + b + ".");
    };
    differs("The world", first.world + ", seed " + std::to_string(first.seed),
        second.world + ", seed " + std::to_string(second.seed));
    differs("The route", first.route, second.route);
    differs("The processor", first.machine.processor, second.machine.processor);
    differs("The driver", first.driver, second.driver);
    differs("The compiler", first.machine.compiler, second.machine.compiler);
    differs("The commit", first.machine.commit, second.machine.commit);
    differs("The picture", std::to_string(first.width) + " x " + std::to_string(first.height),
        std::to_string(second.width) + " x " + std::to_string(second.height));
    concludeFromRows(out);
    return out;
}

} // namespace fell::measure
