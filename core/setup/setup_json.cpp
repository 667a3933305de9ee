// SPDX-License-Identifier: Apache-2.0
// Setup files. "stream.distance" of the table of fields is {"stream": {"distance": ...}} in the file.
#include <fell/input/json_reader.h>
#include <fell/input/nearest.h>
#include <fell/setup/setup.h>

#include <nlohmann/json.hpp>

#include <map>

namespace fell::setup {
namespace {

struct Split {
    std::string part, key;
};

Split split(const std::string& path)
{
    const std::size_t dot = path.find('.');
    return {path.substr(0, dot), path.substr(dot + 1)};
}

/// Reports the first key of `object` that is not in `known`.
void onlyKnown(JsonReader& object, const std::vector<std::string>& known)
{
    if (!object.failed() && object.json().is_object())
        for (const auto& item : object.json().items())
            if (std::find(known.begin(), known.end(), item.key()) == known.end())
                return object.fail(item.key(), "is not a known key, " + allowedNames(item.key(), known));
}

} // namespace

Outcome<Setup> parseSetup(std::string_view json, const std::string& where, const SetupBase& base)
{
    auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    static const std::vector<std::string> kFormat{"fell-setup"};
    root.choice("format", kFormat);
    root.integer("version", 1, 1);
    Setup setup;
    if (root.has("base")) {
        const std::string name = root.text("base", 500);
        auto found = base ? base(name) : Outcome<Setup>(Problem{"", "", "a base cannot be named here: give all keys"});
        if (found)
            setup = found.take();
        else
            root.fail("base", "is " + name + ": " + sentence(found.problem()));
    }
    setup.name = root.text("name", 40);

    std::map<std::string, std::vector<std::string>> keysOf;
    for (const auto& field : setupFields())
        keysOf[split(field.path).part].push_back(split(field.path).key);
    std::vector<std::string> parts{"format", "version", "name", "note", "base"};
    for (const auto& [part, keys] : keysOf)
        parts.push_back(part);
    onlyKnown(root, parts);
    for (const auto& [part, keys] : keysOf) {
        if (!root.has(part))
            continue;
        JsonReader object = root.object(part);
        onlyKnown(object, keys);
        for (const auto& key : keys)
            if (!object.failed() && object.has(key))
                if (auto wrong = writeField(*findField(part + "." + key), setup, object.json()[key]))
                    object.fail(key, *wrong);
    }
    if (problem)
        return *problem;
    if (auto wrong = checkSetup(setup))
        return Problem{where, "/" + std::string("stream/distance"), wrong->what};
    return setup;
}

std::string toJson(const Setup& setup)
{
    nlohmann::ordered_json root{{"format", "fell-setup"}, {"version", 1}, {"name", setup.name}};
    for (const auto& field : setupFields())
        root[split(field.path).part][split(field.path).key] = field.read(setup);
    return root.dump(2) + "\n";
}

} // namespace fell::setup
