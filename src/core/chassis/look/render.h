#pragma once
// A scene as a picture: triangles with depth, in software, on as many threads as are given.

#include "scene.h"

#include <cstdint>

namespace ember::chassis::look {

/// From where: turned about the middle. Azimuth 0 is the front, positive to the right of it; elevation up [degrees].
struct View {
    double azimuth = -28, elevation = 24;
    double zoom = 1;
    double panX = 0, panY = 0; ///< of the picture's height
};

enum class Light { Day, Evening };

/// Rows from above, 0xffRRGGBB.
struct Picture {
    int width = 0, height = 0;
    std::vector<std::uint32_t> pixels;
};

/// Keeps its buffers from one picture to the next.
class Renderer {
  public:
    explicit Renderer(int threadCount = 2) : threads(threadCount) {}
    /// `samples` 2: computed at twice the size each way and averaged, for a picture that rests.
    const Picture& draw(const Scene& scene, const View& view, Light light, int width, int height, int samples = 1);

  private:
    struct Vertex {
        float x, y, depth; ///< pixels; 1 / distance
        float r, g, b, a;
    };
    void place(const Scene& scene, const View& view, Light light, int width, int height);
    void fill(const Scene& scene, int from, int to, Light light);
    int threads;
    Picture picture, fine;
    std::vector<float> depth;
    std::vector<float> colour;               ///< three a pixel, linear
    std::vector<std::vector<Vertex>> placed; ///< by surface
    int wide = 0, high = 0;
};

} // namespace ember::chassis::look
