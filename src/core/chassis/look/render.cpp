#include "render.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <thread>

namespace ember::chassis::look {

namespace {

struct Lights {
    Point key; ///< towards it
    Colour keyLight, sky, floor;
    Colour above, below; ///< of the background
    float sources;       ///< how much the heaters' own light counts
    /// The background, `down` from the picture's upper edge (0) to the lower (1).
    [[nodiscard]] Colour behind(float down) const {
        return above + (below - above) * std::clamp(2.2F * down, 0.F, 1.F);
    }
};
Lights lightsOf(Light l) {
    if (l == Light::Day)
        return {Point(-0.45F, -0.55F, 0.9F).normalized(),
                Colour(1.5F, 1.42F, 1.3F),
                Colour(0.42F, 0.46F, 0.52F),
                Colour(0.2F, 0.18F, 0.16F),
                Colour(0.62F, 0.62F, 0.6F),
                Colour(0.3F, 0.28F, 0.26F),
                0.25F};
    return {Point(-0.6F, -0.25F, 0.75F).normalized(),
            Colour(0.42F, 0.33F, 0.24F),
            Colour(0.045F, 0.05F, 0.065F),
            Colour(0.03F, 0.024F, 0.02F),
            Colour(0.012F, 0.011F, 0.012F),
            Colour(0.035F, 0.026F, 0.02F),
            1.0F};
}

/// What a mirror sees in a direction: sky above, floor below, a bright window on the side of the key light.
Colour mirrored(const Lights& l, const Point& towards) {
    const float up = std::clamp(0.5F + 0.5F * towards.z(), 0.F, 1.F);
    const float window = std::pow(std::max(0.F, towards.dot(l.key)), 6.F);
    return l.floor + (l.sky * 1.9F - l.floor) * up * up + l.keyLight * 0.75F * window;
}

/// Share of the key light that reaches a point of the ground: boxes throw soft shadows away from the light.
float lit(const Scene& scene, const Point& at, const Point& key) {
    float light = 1;
    for (const Shade& s : scene.shades) {
        if (std::abs(at.z() - s.level) > 2e-3F || !(s.height > 1e-3F)) continue;
        // At half its height the box is moved by the light's slant; the edge is softer the higher it is.
        const float shift = 0.5F * s.height / std::max(0.2F, key.z());
        const float dx = -key.x() * shift, dy = -key.y() * shift;
        const float left = std::min(s.left, s.left + 2 * dx), right = std::max(s.right, s.right + 2 * dx);
        const float near = std::min(s.near, s.near + 2 * dy), far = std::max(s.far, s.far + 2 * dy);
        const float ox = std::max({left - at.x(), at.x() - right, 0.F}),
                    oy = std::max({near - at.y(), at.y() - far, 0.F});
        const float soft = 0.004F + 0.25F * s.height;
        const float away = std::clamp(std::hypot(ox, oy) / soft, 0.F, 1.F);
        light *= 1 - 0.5F * (1 - away) * (1 - away);
        // Close to its foot the sky is hidden too.
        const float bx = std::max({s.left - at.x(), at.x() - s.right, 0.F}),
                    by = std::max({s.near - at.y(), at.y() - s.far, 0.F});
        const float foot = std::clamp(std::hypot(bx, by) / 0.012F, 0.F, 1.F);
        light *= 1 - 0.35F * (1 - foot);
    }
    return light;
}

std::uint32_t packed(const float* c) {
    const auto byte = [](float v) {
        v = v / (1 + 0.35F * v);                                                    // bright ends roll off
        v = v <= 0.0031308F ? 12.92F * v : 1.055F * std::pow(v, 1 / 2.4F) - 0.055F; // IEC 61966-2-1
        return static_cast<std::uint32_t>(std::clamp(v * 255 + 0.5F, 0.F, 255.F));
    };
    return 0xff000000U | byte(c[0]) << 16 | byte(c[1]) << 8 | byte(c[2]);
}

/// packed() by a table: 4096 steps of the light's square root.
class Tones {
  public:
    Tones() {
        for (std::size_t k = 0; k < steps; ++k) {
            const float root = 2 * static_cast<float>(k) / steps, v = root * root;
            const float grey[3] = {v, v, v};
            bytes[k] = static_cast<std::uint8_t>(packed(grey) & 0xff);
        }
    }
    std::uint32_t operator()(const float* c) const { return 0xff000000U | of(c[0]) << 16 | of(c[1]) << 8 | of(c[2]); }

  private:
    static constexpr std::size_t steps = 4096;
    [[nodiscard]] std::uint32_t of(float v) const {
        const float root = std::sqrt(std::max(0.F, v));
        return bytes[std::min(steps - 1, static_cast<std::size_t>(root * (steps / 2)))];
    }
    std::uint8_t bytes[steps];
};

} // namespace

void Renderer::place(const Scene& scene, const View& view, Light light, int width, int height) {
    const Lights l = lightsOf(light);
    const double az = view.azimuth * std::numbers::pi / 180, el = view.elevation * std::numbers::pi / 180;
    // Towards the eye; at azimuth 0 it stands before the front (negative y).
    const Point back(static_cast<float>(std::sin(az) * std::cos(el)), static_cast<float>(-std::cos(az) * std::cos(el)),
                     static_cast<float>(std::sin(el)));
    const Point right(static_cast<float>(std::cos(az)), static_cast<float>(std::sin(az)), 0), up = back.cross(right);
    const double side = std::min<double>(height, width / 1.15); // in a narrow picture it is as small as its width asks
    const float distance = 4.6F * scene.radius, focal = static_cast<float>(2.55 * view.zoom * side);
    const Point eye = scene.middle + distance * back;
    const float cx = static_cast<float>(width * 0.5 + view.panX * height),
                cy = static_cast<float>(height * 0.5 + view.panY * height);
    placed.resize(scene.surfaces.size());
    const auto shade = [&](const Surface& s, const Point& at, const Point& n, Vertex& v) {
        const Point towards = (eye - at).normalized();
        const Material& m = s.material;
        const float facing = n.dot(towards);
        float key = std::max(0.F, n.dot(l.key)), sky = 0.5F + 0.5F * n.z();
        if (s.ground) {
            const float reaches = lit(scene, at, l.key);
            key *= reaches, sky *= 0.4F + 0.6F * reaches;
        }
        Colour local = Colour::Zero();
        for (const Source& source : scene.sources) {
            const Point to = source.at - at;
            const float square = to.squaredNorm() + 1e-5F;
            if (square > 0.04F || (at.z() < -1e-3F) != (source.at.z() < 0)) continue; // the plate is between
            const float cosine = s.glass ? 0.5F : std::max(0.F, n.dot(to) / std::sqrt(square));
            local += source.light * (cosine * 9e-4F / square);
        }
        local *= l.sources;
        const Colour ambient = l.floor + (l.sky - l.floor) * sky;
        const Point mirror = 2 * facing * n - towards;
        const float grazing = std::pow(1 - std::clamp(facing, 0.F, 1.F), 4.F);
        Colour c;
        if (m.metal) {
            c = m.colour *
                (mirrored(l, mirror) * m.gloss + (ambient + l.keyLight * key * 0.8F + local) * (1 - m.gloss));
        } else {
            const Point half = (l.key + towards).normalized();
            const float highlight = std::pow(std::max(0.F, n.dot(half)), m.sharpness) * m.gloss;
            c = m.colour * (ambient + l.keyLight * key * 0.8F + local) + l.keyLight * highlight +
                mirrored(l, mirror) * (m.gloss * (0.06F + 0.6F * grazing));
        }
        c += m.glow;
        v.a = 1;
        if (s.glass) {
            const Point half = (l.key + towards).normalized();
            const float highlight = std::pow(std::max(0.F, n.dot(half)), 90.F);
            v.a = std::clamp(0.06F + 0.55F * std::pow(1 - std::abs(facing), 2.2F) + highlight, 0.F, 0.95F);
            c = mirrored(l, mirror) * 0.8F + l.keyLight * highlight + local * 0.12F;
        }
        if (s.ground && at.z() < -1e-3F) { // the bench goes over into the room
            const float away = (at - scene.middle).norm() / scene.radius;
            const float gone = std::clamp((away - 1.6F) / 1.9F, 0.F, 1.F);
            c += (l.behind(v.y / static_cast<float>(height)) - c) * (gone * gone * (3 - 2 * gone));
        }
        v.r = c[0], v.g = c[1], v.b = c[2];
    };
    const auto work = [&](std::size_t part) {
        for (std::size_t k = part; k < scene.surfaces.size(); k += static_cast<std::size_t>(threads)) {
            const Surface& s = scene.surfaces[k];
            auto& out = placed[k];
            out.resize(s.mesh.points.size());
            for (std::size_t n = 0; n < out.size(); ++n) {
                const Point to = s.mesh.points[n] - eye;
                const float far = std::max(1e-3F, -to.dot(back));
                Vertex& v = out[n];
                v.depth = 1 / far;
                v.x = cx + focal * to.dot(right) * v.depth;
                v.y = cy - focal * to.dot(up) * v.depth;
                shade(s, s.mesh.points[n], s.mesh.normals[n], v);
            }
        }
    };
    std::vector<std::jthread> helpers;
    for (int t = 1; t < threads; ++t) helpers.emplace_back(work, static_cast<std::size_t>(t));
    work(0);
}

/// Rows `from` to `to` of the picture.
void Renderer::fill(const Scene& scene, int from, int to, Light light) {
    const Lights l = lightsOf(light);
    for (int y = from; y < to; ++y) {
        const Colour c = l.behind(static_cast<float>(y) / static_cast<float>(high));
        float* row = &colour[3 * static_cast<std::size_t>(y) * static_cast<std::size_t>(wide)];
        for (int x = 0; x < wide; ++x) row[3 * x] = c[0], row[3 * x + 1] = c[1], row[3 * x + 2] = c[2];
        std::fill_n(&depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(wide)], wide, 0.F);
    }
    for (std::size_t k = 0; k < scene.surfaces.size(); ++k) {
        const bool glass = scene.surfaces[k].glass;
        const auto& v = placed[k];
        for (const auto& f : scene.surfaces[k].mesh.faces) {
            const Vertex &a = v[static_cast<std::size_t>(f[0])], &b = v[static_cast<std::size_t>(f[1])],
                         &c = v[static_cast<std::size_t>(f[2])];
            // On the picture y runs down: what faces the eye has a negative area.
            const float area = (b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y);
            if (!(area < -1e-6F)) continue;
            const int top = std::max(from, static_cast<int>(std::ceil(std::min({a.y, b.y, c.y}) - 0.5F))),
                      bottom = std::min(to - 1, static_cast<int>(std::floor(std::max({a.y, b.y, c.y}) - 0.5F)));
            const float inverse = 1 / area;
            for (int y = top; y <= bottom; ++y) {
                const float py = static_cast<float>(y) + 0.5F;
                // Where the row crosses the edges.
                float least = 1e9F, most = -1e9F;
                const auto cross = [&](const Vertex& p, const Vertex& q) {
                    if ((p.y <= py) == (q.y <= py)) return;
                    const float x = p.x + (py - p.y) / (q.y - p.y) * (q.x - p.x);
                    least = std::min(least, x), most = std::max(most, x);
                };
                cross(a, b), cross(b, c), cross(c, a);
                const int begin = std::max(0, static_cast<int>(std::ceil(least - 0.5F))),
                          end = std::min(wide - 1, static_cast<int>(std::ceil(most - 0.5F)) - 1);
                if (begin > end) continue;
                const float px = static_cast<float>(begin) + 0.5F;
                float wb = ((px - a.x) * (c.y - a.y) - (c.x - a.x) * (py - a.y)) * inverse,
                      wc = ((b.x - a.x) * (py - a.y) - (px - a.x) * (b.y - a.y)) * inverse;
                const float stepB = (c.y - a.y) * inverse, stepC = -(b.y - a.y) * inverse;
                float* z = &depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(wide) +
                                  static_cast<std::size_t>(begin)];
                float* to3 = &colour[3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(wide) +
                                          static_cast<std::size_t>(begin))];
                for (int x = begin; x <= end; ++x, ++z, to3 += 3, wb += stepB, wc += stepC) {
                    const float wa = 1 - wb - wc, near = wa * a.depth + wb * b.depth + wc * c.depth;
                    if (near <= *z) continue;
                    const float r = wa * a.r + wb * b.r + wc * c.r, g = wa * a.g + wb * b.g + wc * c.g,
                                blue = wa * a.b + wb * b.b + wc * c.b;
                    if (!glass) {
                        *z = near;
                        to3[0] = r, to3[1] = g, to3[2] = blue;
                        continue;
                    }
                    const float alpha = wa * a.a + wb * b.a + wc * c.a;
                    to3[0] += alpha * (r - to3[0]), to3[1] += alpha * (g - to3[1]), to3[2] += alpha * (blue - to3[2]);
                }
            }
        }
    }
}

const Picture& Renderer::draw(const Scene& scene, const View& view, Light light, int width, int height, int samples) {
    static const Tones tones;
    wide = width * samples, high = height * samples;
    const auto count = static_cast<std::size_t>(wide) * static_cast<std::size_t>(high);
    depth.resize(count);
    colour.resize(3 * count);
    place(scene, view, light, wide, high);
    picture.width = width, picture.height = height;
    picture.pixels.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
    const auto band = [&](int part) {
        const int from = height * part / threads, to = height * (part + 1) / threads;
        fill(scene, from * samples, to * samples, light);
        for (int y = from; y < to; ++y)
            for (int x = 0; x < width; ++x) {
                float sum[3] = {0, 0, 0};
                for (int dy = 0; dy < samples; ++dy)
                    for (int dx = 0; dx < samples; ++dx) {
                        const float* from3 =
                            &colour[3 * (static_cast<std::size_t>(y * samples + dy) * static_cast<std::size_t>(wide) +
                                         static_cast<std::size_t>(x * samples + dx))];
                        for (int k = 0; k < 3; ++k) sum[k] += from3[k];
                    }
                const float share = 1 / static_cast<float>(samples * samples);
                for (float& s : sum) s *= share;
                picture.pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                               static_cast<std::size_t>(x)] = tones(sum);
            }
    };
    std::vector<std::jthread> helpers;
    for (int t = 1; t < threads; ++t) helpers.emplace_back(band, t);
    band(0);
    return picture;
}

} // namespace ember::chassis::look
