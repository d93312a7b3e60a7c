// What a control of a touch surface is driven from: all that rules/drive.h names, and what else of a room is shown and
// pressed there, by the path that rules have for it (rules/signal.h): outside devices, walls, mutes, relays and
// contacts, knobs, devices and streams, which stream is heard.
#pragma once
#include "rules/signal.h"

namespace loom::project {

// None: there is no such. `device` of a signal is who tells it (tellerOf); "": nobody.
std::optional<Drive> controlDrive(const Project& project, const std::string& path);
// As findDrives(); signals come before parameters, only those that somebody tells whom a surface can ask.
std::vector<Drive> findControlDrives(const Project& project, const std::string& words, std::size_t most,
                                     const std::string& device = "");
// Whether it is none of what rules/drive.h names.
bool isSignal(const Drive& drive);
// Whether a surface can know it: who tells it has a program, and with it a line of values.
bool isToldToSurfaces(const Project& project, const Drive& drive);
// What it is while nothing runs: as designValue(), signals as before anybody touched them.
std::optional<double> controlValue(const Project& project, const Drive& drive);

} // namespace loom::project
