#pragma once
// What each kind of part looks like, within the bodies that the layout has for it.

#include "scene.h"

namespace ember::chassis::look {

Material plateMaterial(const Chassis& chassis);
Material wallMaterial(const Chassis& chassis);
Material boardMaterial(const Chassis& chassis); ///< a bench board's wood: the walls' finish, else pale plywood
Material benchTop();
Material rubber();
Material brightMetal(); ///< plated screws and tubes
/// A bench board with the strips along its edges.
void addBoard(Scene& scene, const Chassis& chassis);
/// A cage over the whole top, `height` [m] above it.
void addCage(Scene& scene, const Chassis& chassis, float height);

/// One placed part, body by body.
struct Dressing {
    const Chassis& chassis;
    const PlacedPart& part;
    const Pose& pose;
    float heater;     ///< its volts over rated; 0: cold
    float meterShare; ///< of full scale
    bool lamp;
    Scene& scene;

    void body(const Body& body);
    void screws();
    void spacers(float lift); ///< on a bench board, `lift` [m] above its wood

  private:
    void add(Mesh mesh, const Material& material, bool glass = false);
    void iron(const Body& body);
    void valve(const Body& body);
    void meter(const Body& body);
    void knob(const Body& body);
    void posts(const Body& body);
    void upright(const Body& body, const Material& material, float round);
};

} // namespace ember::chassis::look
