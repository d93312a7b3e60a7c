// Which types of the project are declared (schema/schema.h), and the few calls that need more than one of them.
// Declarations: room_types.cpp, device_types.cpp, program_types.cpp, voicing_types.cpp, talk_types.cpp,
// surface_types.cpp, scene_types.cpp, rule_types.cpp, outside_types.cpp, access_types.cpp.
#pragma once
#include "model/project.h"
#include "model/tool.h"
#include "schema/json_text.h"
#include "schema/schema.h"

namespace loom::project {

inline constexpr int formatVersion = 3;
using schema::fromJson;
using schema::parseJson;
using schema::setShownField;
using schema::shownFields;
using schema::toJson;

} // namespace loom::project

namespace loom::schema {

// One line a type; nothing else says that there is one.
#define LOOM_PROJECT_TYPES(X)                                                                                          \
    X(project::Project)                                                                                                \
    X(project::Building)                                                                                               \
    X(project::Room)                                                                                                   \
    X(project::Seats)                                                                                                  \
    X(project::Talker)                                                                                                 \
    X(project::Furniture)                                                                                              \
    X(project::Noise)                                                                                                  \
    X(project::Targets)                                                                                                \
    X(project::MovableWall)                                                                                            \
    X(project::WallState)                                                                                              \
    X(project::Rack)                                                                                                   \
    X(project::Backdrop)                                                                                               \
    X(project::Place)                                                                                                  \
    X(project::Device)                                                                                                 \
    X(project::StandIn)                                                                                                \
    X(project::Stream)                                                                                                 \
    X(project::Receiver)                                                                                               \
    X(project::Wire)                                                                                                   \
    X(project::AmplifierOutput)                                                                                        \
    X(project::LoudspeakerLoad)                                                                                        \
    X(project::DismissedFinding)                                                                                       \
    X(project::Proof)                                                                                                  \
    X(project::Surface)                                                                                                \
    X(project::SurfacePage)                                                                                            \
    X(project::Ply)                                                                                                    \
    X(project::Control)                                                                                                \
    X(project::SurfaceLook)                                                                                            \
    X(project::Scene)                                                                                                  \
    X(project::Clause)                                                                                                 \
    X(project::Rule)                                                                                                   \
    X(project::Script)                                                                                                 \
    X(project::RehearsalStep)                                                                                          \
    X(project::RehearsalTest)                                                                                          \
    X(project::RulePlace)                                                                                              \
    X(project::OutsideKind)                                                                                            \
    X(project::OutsideState)                                                                                           \
    X(project::OutsideCommand)                                                                                         \
    X(project::OutsideDevice)                                                                                          \
    X(project::AllowedSignal)                                                                                          \
    X(project::Access)                                                                                                 \
    X(project::ControlPictures)                                                                                        \
    X(project::SurfaceRole)                                                                                            \
    X(project::Voicing)                                                                                                \
    X(project::Way)                                                                                                    \
    X(engine::Program)                                                                                                 \
    X(engine::Block)                                                                                                   \
    X(project::Tool)

LOOM_PROJECT_TYPES(LOOM_DESCRIBE)

// A port and a thread are short lists: ["chair", 0] and [["chair", 0], ["eq", 0]].
template <> struct Codec<engine::PortRef> {
    static void read(engine::PortRef& v, const Json& j, const Limits& l, const At& at, Reading& r);
    static Json write(const engine::PortRef& v, const Limits& l);
    static void check(const engine::PortRef& v, const Limits& l, const At& at, Reading& r);
    static Json schema(const Limits& l, Definitions& d);
};
template <> struct Codec<engine::Connection> {
    static void read(engine::Connection& v, const Json& j, const Limits& l, const At& at, Reading& r);
    static Json write(const engine::Connection& v, const Limits& l);
    static void check(const engine::Connection& v, const Limits& l, const At& at, Reading& r);
    static Json schema(const Limits& l, Definitions& d);
};

} // namespace loom::schema
