// The little that a program made by Faust asks for.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <cstring>
struct Meta {
    void declare(const char*, const char*) {}
};
struct UI {
    void openVerticalBox(const char*) {}
    void closeBox() {}
};
struct dsp {
    virtual ~dsp() = default;
    virtual void init(int rate) = 0;
    virtual void compute(int frames, float** in, float** out) = 0;
};
