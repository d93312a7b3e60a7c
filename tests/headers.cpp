// Only its precompiled headers are of use (tests/CMakeLists.txt).
