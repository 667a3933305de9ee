// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/recipe_editor.h>

#include <nlohmann/json.hpp>

#include <fell/input/text_file.h>

namespace fell::app {

namespace {

constexpr qint64 kHurryMs = 200; // between two requests of a slider that is dragged

} // namespace

RecipeEditor::RecipeEditor(QObject* parent)
    : QObject(parent)
    , m_thread([this](const std::stop_token& stop) { work(stop); })
{
}

RecipeEditor::~RecipeEditor()
{
    m_thread.request_stop();
    {
        const std::scoped_lock lock(m_mutex);
        m_newer.request_stop();
    }
    m_wake.notify_all();
    m_thread.join();
}

void RecipeEditor::begin(const Recipe& recipe)
{
    m_recipe = std::make_shared<const Recipe>(recipe);
    auto document = RecipeDocument::parse(recipe.text, nullptr, false);
    if (document.is_object())
        document["seed"] = recipe.seed; // the world's may have been given to it
    m_history.begin(document.is_object() ? std::move(document) : RecipeDocument::object());
    m_costs.reset();
    m_preview = {};
    emit changed();
    ask();
}

Outcome<Recipe> RecipeEditor::read(const RecipeDocument& document) const
{
    return parseRecipe(
        document.dump(), m_recipe->name, [this](const std::string&) -> Outcome<BlockSet> { return m_recipe->blocks; });
}

std::optional<QString> RecipeEditor::change(const RecipeDocument& next, const QString& thing)
{
    if (next == document())
        return std::nullopt;
    auto recipe = read(next);
    if (!recipe)
        return QString::fromStdString(sentence(recipe.problem()));
    m_recipe = std::make_shared<const Recipe>(recipe.take());
    m_history.add(next, thing);
    m_costs.reset();
    emit changed();
    ask();
    return std::nullopt;
}

void RecipeEditor::setSeed(std::uint64_t seed)
{
    RecipeDocument next = document();
    next["seed"] = seed;
    change(next, QStringLiteral("seed"));
}

void RecipeEditor::undo()
{
    m_history.undo();
    readAgain();
}

void RecipeEditor::redo()
{
    m_history.redo();
    readAgain();
}

void RecipeEditor::readAgain()
{
    if (auto recipe = read(document()))
        m_recipe = std::make_shared<const Recipe>(recipe.take());
    m_costs.reset();
    emit changed();
    ask();
}

std::optional<Problem> RecipeEditor::save(const std::filesystem::path& file)
{
    RecipeDocument out = document();
    std::error_code error;
    const std::filesystem::path folder = m_recipe->blocks.folder;
    if (out.contains("blocks") && !folder.empty() && !std::filesystem::equivalent(folder, file.parent_path(), error))
        out["blocks"] = std::filesystem::absolute(folder / out["blocks"].get<std::string>()).string();
    out.erase("$schema"); // next to the demos only
    if (auto problem = writeFile(file, out.dump(2) + "\n"))
        return problem;
    m_history.keep();
    emit changed();
    return std::nullopt;
}

void RecipeEditor::look(const MapSpec& map, const SectionSpec& section, bool seeds)
{
    m_map = map;
    m_section = section;
    m_seeds = seeds;
    ask();
}

void RecipeEditor::ask()
{
    if (!m_recipe || m_recipe->pattern)
        return;
    Request request{
        m_recipe, document(), m_map, m_section, m_seeds, {}, m_lastAsked.isValid() && m_lastAsked.elapsed() < kHurryMs};
    request.since.start();
    m_lastAsked.start();
    const std::scoped_lock lock(m_mutex);
    m_newer.request_stop();
    m_newer = {};
    m_request = std::move(request);
    m_wake.notify_all();
}

void RecipeEditor::work(const std::stop_token& stop)
{
    for (;;) {
        Request request;
        std::stop_token newer;
        {
            std::unique_lock lock(m_mutex);
            if (!m_wake.wait(lock, stop, [this] { return m_request.has_value(); }))
                return;
            request = std::move(*m_request);
            m_request.reset();
            newer = m_newer.get_token();
        }
        const auto terrain = makeTerrain(*request.recipe);
        if (request.isHurried) {
            MapSpec half = request.map;
            half.width = std::max(16, half.width / 2);
            half.height = std::max(16, half.height / 2);
            half.metresPerPixel *= 2;
            RecipePreview rough{mapOf(*terrain, half, newer), sectionOf(*terrain, request.section, newer), {}, 0};
            rough.ms = static_cast<double>(request.since.nsecsElapsed()) / 1e6;
            if (newer.stop_requested())
                continue;
            show(std::move(rough));
        }
        RecipePreview made;
        made.map = mapOf(*terrain, request.map, newer);
        made.section = sectionOf(*terrain, request.section, newer);
        for (int i = 0; i < kSheet && request.seeds && !newer.stop_requested(); ++i) {
            MapSpec small = request.map;
            small.width = std::max(16, small.width / 3);
            small.height = std::max(16, small.height / 3);
            small.metresPerPixel *= 3;
            made.seeds.push_back(mapOf(
                *makeTerrain(*request.recipe, request.recipe->seed + static_cast<std::uint64_t>(i)), small, newer));
        }
        if (newer.stop_requested())
            continue;
        made.ms = static_cast<double>(request.since.nsecsElapsed()) / 1e6;
        show(std::move(made));
        cost(request, newer);
    }
}

/// From the worker to the window.
void RecipeEditor::show(RecipePreview made)
{
    QMetaObject::invokeMethod(this, [this, made = std::move(made)]() mutable {
        m_preview = std::move(made);
        emit previewed();
    });
}

/// Once nothing newer is asked for; they are the same for every view of one recipe.
void RecipeEditor::cost(const Request& of, const std::stop_token& stop)
{
    if (of.recipe == m_costed)
        return;
    auto costs = costsOf(
        of.document, of.recipe->name, [&of](const std::string&) -> Outcome<BlockSet> { return of.recipe->blocks; },
        stop);
    if (!costs || costs.value().stopped)
        return;
    m_costed = of.recipe;
    QMetaObject::invokeMethod(this, [this, costs = costs.take(), recipe = of.recipe] {
        if (recipe != m_recipe)
            return;
        m_costs = costs;
        emit costed();
    });
}

} // namespace fell::app

#include "moc_recipe_editor.cpp"
