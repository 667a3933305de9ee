// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/block_editor.h>

#include <nlohmann/json.hpp>

#include <fell/assets/block_set_file.h>
#include <fell/input/text_file.h>

#include <QImage>
#include <set>

namespace fell::app {

void BlockEditor::begin(const BlockSet& set)
{
    m_set = set;
    auto document = nlohmann::ordered_json::parse(set.text, nullptr, false);
    m_history.begin(document.is_object() ? std::move(document) : nlohmann::ordered_json::object());
    emit changed();
}

Outcome<BlockSet> BlockEditor::read(const nlohmann::ordered_json& document) const
{
    return parseBlockSet(document.dump(), "block book", m_set.folder);
}

std::optional<std::size_t> BlockEditor::entryOf(Material material) const
{
    if (material == kOpen || material >= m_set.kinds.size() || !document().contains("blocks"))
        return std::nullopt;
    std::string name = m_set.kinds[material].name;
    if (const int turn = m_set.kinds[material].turn; turn != 0)
        name.resize(name.size() - std::to_string(turn * 90).size() - 1);
    const auto& blocks = document()["blocks"];
    for (std::size_t i = 0; i < blocks.size(); ++i)
        if (blocks[i].value("name", "") == name)
            return i;
    return std::nullopt;
}

std::optional<QString> BlockEditor::change(Material material, const std::string& pointer, const nlohmann::json& value)
{
    const auto entry = entryOf(material);
    if (!entry)
        return tr("This kind cannot be changed");
    nlohmann::ordered_json next = document();
    const nlohmann::ordered_json::json_pointer at("/blocks/" + std::to_string(*entry) + pointer);
    if (value.is_null())
        next[at.parent_pointer()].erase(at.back());
    else
        next[at] = nlohmann::ordered_json(value);
    return take(next, QString::fromStdString(at.to_string()));
}

std::optional<QString> BlockEditor::addLike(Material material, const std::string& name)
{
    const auto entry = entryOf(material);
    if (!entry)
        return tr("Choose a kind that the new one is to be like");
    nlohmann::ordered_json next = document();
    nlohmann::ordered_json copy = next["blocks"][*entry];
    copy["name"] = name;
    next["blocks"].push_back(std::move(copy));
    return take(next, {});
}

std::optional<QString> BlockEditor::take(const nlohmann::ordered_json& next, const QString& thing)
{
    if (next == document())
        return std::nullopt;
    auto set = read(next);
    if (!set)
        return QString::fromStdString(sentence(set.problem()));
    m_set = set.take();
    m_history.add(next, thing);
    emit changed();
    return std::nullopt;
}

void BlockEditor::undo()
{
    m_history.undo();
    if (auto set = read(document()))
        m_set = set.take();
    emit changed();
}

void BlockEditor::redo()
{
    m_history.redo();
    if (auto set = read(document()))
        m_set = set.take();
    emit changed();
}

std::optional<Problem> BlockEditor::save(const std::filesystem::path& file)
{
    nlohmann::ordered_json out = document();
    const std::filesystem::path folder = std::filesystem::absolute(file).parent_path();
    std::error_code error;
    const bool isBeside = std::filesystem::equivalent(m_set.folder, folder, error);
    for (auto& block : out["blocks"]) {
        if (block.contains("textures"))
            for (auto& texture : block["textures"])
                if (auto problem = bring(texture, folder, isBeside))
                    return problem;
        const std::string shape = block.value("shape", "cube");
        if (!isBeside && shape != "cube" && shape != "half" && shape != "slope") // may be more files than one
            block["shape"] = std::filesystem::absolute(m_set.folder / shape).lexically_normal().string();
    }
    if (auto problem = writeFile(file, out.dump(2) + "\n"))
        return problem;
    m_history.keep();
    emit changed();
    return std::nullopt;
}

/// A picture comes along as a PNG in the folder "textures" next to the set, and is named from there; one that is there
/// already, or that does not exist, is left as it is.
std::optional<Problem> BlockEditor::bring(
    nlohmann::ordered_json& texture, const std::filesystem::path& folder, bool isBeside) const
{
    const std::filesystem::path named = texture.get<std::string>(), from = m_set.folder / named;
    std::error_code error;
    if ((isBeside && named.is_relative()) || !std::filesystem::exists(from, error))
        return std::nullopt;
    const auto read = [](const std::filesystem::path& file) {
        return QImage(QString::fromStdString(file.string())).convertToFormat(QImage::Format_ARGB32);
    };
    const QImage picture = read(from);
    const std::filesystem::path into = folder / "textures";
    std::filesystem::create_directories(into, error);
    std::string name = from.stem().string() + ".png";
    // Another picture of that name stays what it is.
    for (int i = 2; std::filesystem::exists(into / name, error) && read(into / name) != picture; ++i)
        name = from.stem().string() + "-" + std::to_string(i) + ".png";
    if (!std::filesystem::exists(into / name, error)
        && !picture.save(QString::fromStdString((into / name).string()), "PNG"))
        return Problem{(into / name).string(), "", "cannot be written"};
    texture = "textures/" + name;
    return std::nullopt;
}

QStringList BlockEditor::findingsOf(Material material) const
{
    constexpr int kMax = 15;
    constexpr float kOpaque = 0.99F;
    QStringList out;
    const BlockKind& kind = m_set.kinds[material];
    const BlockLight& light = kind.light;
    const bool isLamp = light.emission != std::array<std::uint8_t, 3>{};
    if (isLamp && light.opacity == kMax)
        out << tr("A lamp that takes all light: its own leaves it, but that of others does not pass.");
    if (kind.matter == Matter::SeeThrough && kind.opacity >= kOpaque)
        out << tr("See-through, but drawn so that it hides what is behind: it costs the sorting and shows nothing.");
    if (kind.matter != Matter::Solid && light.opacity == kMax)
        out << tr("One can see through it, but no light passes.");
    if (kind.matter == Matter::Solid && !kind.shape && light.opacity < kMax)
        out << tr("A solid cube that light passes: rooms behind it are lit through their walls.");
    std::error_code error;
    for (const std::string& texture : kind.textures)
        if (!texture.empty() && !std::filesystem::exists(m_set.folder / texture, error)) {
            out << tr("There is no %1: its colour is shown.").arg(QString::fromStdString(texture));
            break;
        }
    return out;
}

void KindCounter::start(ResidentVoxels residents, std::size_t kinds)
{
    BackgroundTask::start([this, residents = std::move(residents), kinds](const std::stop_token& stop) -> Done {
        std::vector<std::uint64_t> counts(kinds);
        for (const auto& [chunk, voxels] : residents) {
            if (stop.stop_requested())
                break;
            for (const Material m : voxels->voxels())
                if (m < kinds)
                    ++counts[m];
        }
        return [this, counts = std::move(counts)] { m_counts = counts; };
    });
}

Outcome<std::shared_ptr<const Terrain>> terrainWith(const Terrain& terrain, const BlockSet& blocks)
{
    auto recipe = parseRecipe(terrain.recipe.text, terrain.recipe.name,
        [&blocks](const std::string&) -> Outcome<BlockSet> { return blocks; });
    if (!recipe)
        return recipe.problem();
    return makeTerrain(recipe.take(), terrain.recipe.seed);
}

Outcome<OtherBlocks> withBlocks(const Terrain& terrain, const WorldChanges& changes, const BlockSet& blocks)
{
    auto made = terrainWith(terrain, blocks);
    if (!made)
        return made.problem();
    OtherBlocks out;
    out.terrain = made.take();
    out.changes = std::make_shared<WorldChanges>();
    std::set<Material> gone;
    std::vector<Material> now; // by the old number
    for (const BlockKind& kind : terrain.recipe.blocks.kinds)
        now.push_back(findMaterial(blocks, kind.name).value_or(kOpen));
    std::vector<std::pair<ChunkPos, KeptVoxels>> kept;
    std::vector<ChunkPos> chunks;
    for (const auto& [chunk, voxels] : changes.all()) {
        KeptVoxels other = *voxels;
        for (KeptVoxel& one : other) {
            const Material before = one.material;
            one.material = before < now.size() ? now[before] : kOpen;
            if (before != kOpen && one.material == kOpen) {
                ++out.lost;
                gone.insert(before);
            }
        }
        chunks.push_back(chunk);
        kept.emplace_back(chunk, std::move(other));
    }
    for (const Material m : gone)
        out.gone.push_back(m < now.size() ? terrain.recipe.blocks.kinds[m].name : std::to_string(m));
    out.changes->replaceAll(std::move(kept));
    out.changes->markUnsaved(chunks); // they are in no file with these blocks
    return out;
}

} // namespace fell::app

#include "moc_block_editor.cpp"
