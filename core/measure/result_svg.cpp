// SPDX-License-Identifier: Apache-2.0
// The plots of a transect as SVG 1.1, for machines without a window.
#include <fell/measure/findings.h>
#include <fell/measure/markup.h>
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>

namespace fell::measure {
namespace {

constexpr double kWidth = 560, kHeight = 300, kLeft = 60, kRight = 20, kTop = 56, kBottom = 46;

std::string text(double value, int digits = 1)
{
    char out[64];
    const auto end = std::to_chars(out, out + sizeof out, value, std::chars_format::fixed, digits);
    return {out, end.ptr};
}

const char* colourOf(char side)
{
    return side == 'A' ? "#2F6F8F" : "#C18F1D";
}

/// One plot: a line of medians between a band from p5 to p95.
struct Curve {
    char side;
    std::string name;
    std::vector<std::array<double, 5>> points; // x, low, middle, p95, p99
    std::optional<Growth> fit; // of the medians
};

/// How far a fitted line goes on beyond what was measured, in widths of that.
constexpr double kBeyond = 0.3;

/// A round step that gives at most six lines up to `most`.
double stepFor(double max)
{
    const double power = std::pow(10, std::floor(std::log10(std::max(max, 1e-9) / 5)));
    for (const double factor : {1.0, 2.0, 5.0, 10.0})
        if (max / (power * factor) <= 6)
            return power * factor;
    return power * 10;
}

class Plot {
public:
    Plot(double x0, const std::string& title, const std::string& legend, const std::vector<Curve>& curves,
        const std::string& xTitle, const std::vector<std::string>& xNames)
        : m_x0(x0)
    {
        double max = 0;
        for (const auto& curve : curves)
            for (const auto& p : curve.points) {
                max = std::max(max, p[4]);
                m_low = std::min(m_low, p[0]);
                m_high = std::max(m_high, p[0]);
            }
        m_measured = m_high;
        const bool isFitted
            = std::any_of(curves.begin(), curves.end(), [](const Curve& curve) { return curve.fit.has_value(); });
        if (isFitted && m_high > m_low)
            m_high += kBeyond * (m_high - m_low);
        for (const auto& curve : curves)
            if (curve.fit)
                max = std::max(max, std::min(curve.fit->at(m_high), 3 * max));
        const double step = stepFor(max);
        m_max = std::max(step, std::ceil(max / step) * step);
        line(title, m_x0 + 12, 22, "font-weight=\"600\"");
        line(isFitted ? legend + "; dotted: fitted to the medians, not measured" : legend, m_x0 + 12, 40,
            "fill=\"#6B7276\" font-size=\"11\"");
        for (double y = 0; y <= m_max * 1.0001; y += step) {
            m_svg += "<line x1=\"" + text(m_x0 + kLeft) + "\" x2=\"" + text(m_x0 + kWidth - kRight) + "\" y1=\""
                + text(atY(y)) + "\" y2=\"" + text(atY(y)) + "\" stroke=\"#DDD8CC\"/>\n";
            line(text(y, step < 1 ? 2 : 0), m_x0 + kLeft - 8, atY(y) + 4, "text-anchor=\"end\" font-size=\"11\"");
        }
        if (!curves.empty())
            for (std::size_t i = 0; i < curves[0].points.size() && i < xNames.size(); ++i)
                line(xNames[i], atX(curves[0].points[i][0]), kHeight - kBottom + 18,
                    "text-anchor=\"middle\" font-size=\"11\"");
        line(xTitle, m_x0 + kWidth - kRight, kHeight - 10, "text-anchor=\"end\" fill=\"#6B7276\" font-size=\"11\"");
        for (const auto& curve : curves)
            draw(curve);
        double x = m_x0 + kWidth - kRight;
        for (auto curve = curves.rbegin(); curve != curves.rend(); ++curve) {
            line(std::string(1, curve->side) + " " + curve->name, x, 22,
                "text-anchor=\"end\" fill=\"" + std::string(colourOf(curve->side)) + "\"");
            x -= 20 + 7 * static_cast<double>(curve->name.size() + 2);
        }
    }
    [[nodiscard]] const std::string& svg() const { return m_svg; }

private:
    [[nodiscard]] double atX(double value) const
    {
        const double span = m_high > m_low ? m_high - m_low : 1;
        return m_x0 + kLeft + (value - m_low) / span * (kWidth - kLeft - kRight);
    }
    [[nodiscard]] double atY(double value) const
    {
        return kHeight - kBottom - value / m_max * (kHeight - kTop - kBottom);
    }

    void line(const std::string& what, double x, double y, const std::string& more)
    {
        m_svg
            += "<text x=\"" + text(x) + "\" y=\"" + text(y) + "\" " + more + ">" + escapedForMarkup(what) + "</text>\n";
    }

    void draw(const Curve& curve)
    {
        std::string band, back, middle, last;
        for (const auto& p : curve.points) {
            const std::string x = text(atX(p[0]));
            band += x + "," + text(atY(p[1])) + " ";
            back = x + "," + text(atY(p[3])) + " " + back;
            middle += x + "," + text(atY(p[2])) + " ";
            last += x + "," + text(atY(p[4])) + " ";
            m_svg += curve.side == 'A' ? "<circle cx=\"" + x + "\" cy=\"" + text(atY(p[2])) + "\" r=\"3.5\" fill=\""
                    + colourOf(curve.side) + "\"/>\n"
                                       : "<rect x=\"" + text(atX(p[0]) - 3) + "\" y=\"" + text(atY(p[2]) - 3)
                    + "\" width=\"6\" height=\"6\" fill=\"" + colourOf(curve.side) + "\"/>\n";
        }
        const std::string stroke = std::string("fill=\"none\" stroke=\"") + colourOf(curve.side) + "\""
            + (curve.side == 'B' ? " stroke-dasharray=\"6 3\"" : "");
        m_svg += std::string("<polygon fill=\"") + colourOf(curve.side) + "\" fill-opacity=\"0.16\" points=\"" + band
            + back + "\"/>\n";
        m_svg += "<polyline " + stroke + " stroke-width=\"2\" points=\"" + middle + "\"/>\n";
        m_svg += "<polyline " + stroke + " stroke-width=\"1\" stroke-opacity=\"0.6\" points=\"" + last + "\"/>\n";
        if (!curve.fit || m_high <= m_measured)
            return;
        constexpr int kPieces = 12;
        std::string on;
        for (int i = 0; i <= kPieces; ++i) {
            const double x = m_measured + (m_high - m_measured) * i / kPieces;
            on += text(atX(x)) + "," + text(atY(std::min(curve.fit->at(x), m_max))) + " ";
        }
        m_svg += std::string("<polyline class=\"fitted\" fill=\"none\" stroke=\"") + colourOf(curve.side)
            + "\" stroke-width=\"2\" stroke-dasharray=\"2 4\" points=\"" + on + "\"/>\n";
    }

    double m_x0, m_low = 1e300, m_high = -1e300, m_max = 1, m_measured = 0; // the last x that was measured
    std::string m_svg;
};

std::vector<Curve> curvesOf(const TransectResult& result, const char* what, double unit,
    const std::function<std::array<double, 4>(const TransectRow&)>& take)
{
    std::vector<Curve> curves;
    for (const char side : {'A', 'B'}) {
        Curve curve{side, "", {}, std::nullopt};
        if (const Growth* growth = growthOf(result, side, what)) {
            curve.fit = *growth;
            curve.fit->factor /= unit;
        }
        for (const auto& row : result.rows)
            if (row.side == side) {
                const auto [low, middle, p95, p99] = take(row);
                const double x
                    = row.value.is_number() ? row.value.get<double>() : static_cast<double>(curve.points.size());
                curve.name = row.setup;
                curve.points.push_back({x, low, middle, p95, p99});
            }
        if (!curve.points.empty())
            curves.push_back(std::move(curve));
    }
    return curves;
}

std::string page(const std::string& body, double width, double height)
{
    return "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" + text(width, 0) + "\" height=\"" + text(height, 0)
        + "\" font-family=\"Inter, DejaVu Sans, sans-serif\" font-size=\"13\" fill=\"#22282B\">\n<rect width=\"100%\" "
          "height=\"100%\" fill=\"#FAF8F2\"/>\n"
        + body + "</svg>\n";
}

/// One cost of one setup over two varied values: a field each, dark where it is dear, with its figure.
std::string heatMap(const TransectResult& result, char side, bool frames, double x0, double y0)
{
    std::vector<nlohmann::json> columns;
    std::vector<const TransectRow*> rows;
    for (const TransectRow& row : result.rows)
        if (row.side == side) {
            rows.push_back(&row);
            if (std::find(columns.begin(), columns.end(), row.value) == columns.end())
                columns.push_back(row.value);
        }
    const auto lines = secondValuesOf(result);
    const auto costOf = [frames](const TransectRow& row) { return frames ? row.frameMs.p50 : row.meshNs.p50 / 1000; };
    double min = 1e300, max = 0;
    for (const TransectRow* row : rows) {
        min = std::min(min, costOf(*row));
        max = std::max(max, costOf(*row));
    }
    const auto put = [](const std::string& what, double x, double y, const std::string& more) {
        return "<text x=\"" + text(x) + "\" y=\"" + text(y) + "\" " + more + ">" + escapedForMarkup(what) + "</text>\n";
    };
    std::string out = put(std::string(1, side) + " " + (rows.empty() ? "" : rows[0]->setup) + ": "
            + (frames ? "frame time p50, ms" : "mesh build time p50 a chunk, us"),
        x0 + 12, y0 + 22, "font-weight=\"600\"");
    const double width = (kWidth - 110 - kRight) / static_cast<double>(std::max<std::size_t>(1, columns.size())),
                 height = (kHeight - kTop - kBottom) / static_cast<double>(std::max<std::size_t>(1, lines.size()));
    const auto placeOf = [](const std::vector<nlohmann::json>& in, const nlohmann::json& value) {
        return static_cast<double>(std::find(in.begin(), in.end(), value) - in.begin());
    };
    for (const TransectRow* row : rows) {
        const double x = x0 + 110 + width * placeOf(columns, row->value),
                     y = y0 + kTop + height * placeOf(lines, row->second);
        const double share = max > min ? std::log(costOf(*row) / min) / std::log(max / min) : 0;
        const auto [red, green, blue] = evenScale(share);
        out += "<rect x=\"" + text(x) + "\" y=\"" + text(y) + "\" width=\"" + text(width - 2) + "\" height=\""
            + text(height - 2) + "\" fill=\"rgb(" + std::to_string(red) + "," + std::to_string(green) + ","
            + std::to_string(blue) + ")\"/>\n"
            + put(shownFigure(costOf(*row)), x + width / 2 - 1, y + height / 2 + 4,
                std::string("text-anchor=\"middle\" font-size=\"12\" fill=\"") + (share > 0.5 ? "#FFFFFF" : "#22282B")
                    + "\"");
    }
    for (std::size_t i = 0; i < columns.size(); ++i)
        out += put(shownValue(columns[i]), x0 + 110 + width * (static_cast<double>(i) + 0.5),
            y0 + kHeight - kBottom + 18, "text-anchor=\"middle\" font-size=\"11\"");
    for (std::size_t i = 0; i < lines.size(); ++i)
        out += put(shownValue(lines[i]), x0 + 102, y0 + kTop + height * (static_cast<double>(i) + 0.5) + 4,
            "text-anchor=\"end\" font-size=\"11\"");
    const auto titled
        = [](const std::string& path, const std::string& unit) { return path + (unit.empty() ? "" : ", " + unit); };
    out += put(titled(result.vary, result.unit), x0 + kWidth - kRight, y0 + kHeight - 10,
        "text-anchor=\"end\" fill=\"#6B7276\" font-size=\"11\"");
    out += put(titled(result.second, result.secondUnit), x0 + 12, y0 + 42, "fill=\"#6B7276\" font-size=\"11\"");
    return out;
}

std::string heatMaps(const TransectResult& result)
{
    const bool drawn = !result.driver.empty();
    const int sides = result.b ? 2 : 1;
    std::string body;
    for (int side = 0; side < sides; ++side)
        for (int cost = 0; cost < (drawn ? 2 : 1); ++cost)
            body += heatMap(result, side == 0 ? 'A' : 'B', cost == 1, kWidth * cost, kHeight * side);
    return page(body, drawn ? 2 * kWidth : kWidth, kHeight * sides);
}

} // namespace

std::array<int, 3> evenScale(double share)
{
    // Straight from limewash to tarn blue's shade: lightness falls evenly, and it reads the same without colour.
    constexpr std::array<double, 3> kLow{238, 233, 218}, kHigh{24, 60, 82};
    std::array<int, 3> out{};
    for (std::size_t i = 0; i < 3; ++i)
        out[i] = static_cast<int>(std::lround(kLow[i] + (kHigh[i] - kLow[i]) * std::clamp(share, 0.0, 1.0)));
    return out;
}

std::string toSvg(const TransectResult& result)
{
    if (!result.second.empty())
        return heatMaps(result);
    std::vector<std::string> names;
    for (const auto& row : result.rows)
        if (row.side == 'A')
            names.push_back(row.value.is_string() ? row.value.get<std::string>() : row.value.dump());
    const std::string xTitle = result.vary + (result.unit.empty() ? "" : ", " + result.unit);
    const bool drawn = !result.driver.empty();
    const Plot mesh(0, "Mesh build time a chunk, us", "line p50, band p5 to p95, thin line p99",
        curvesOf(result, "mesh_ns", 1000,
            [](const TransectRow& r) {
                return std::array{r.meshNs.p5 / 1000, r.meshNs.p50 / 1000, r.meshNs.p95 / 1000, r.meshNs.p99 / 1000};
            }),
        xTitle, names);
    std::string body = mesh.svg();
    if (drawn)
        body += Plot(kWidth, "Frame time, ms", "line p50, band p5 to p95, thin line p99",
            curvesOf(result, "frame_ms", 1,
                [](const TransectRow& r) {
                    return std::array{r.frameMs.p5, r.frameMs.p50, r.frameMs.p95, r.frameMs.p99};
                }),
            xTitle, names)
                    .svg();
    return page(body, drawn ? 2 * kWidth : kWidth, kHeight);
}

} // namespace fell::measure
