// Rulings: scales divided in ones, twos or fives.
#pragma once

#include <QPainter>
#include <functional>

namespace bronvel {

/// The division of a span that gives about so many, never more.
double division_of(double span, double about);

/// A base line from left to right with its divisions: each fifth and tenth longer. `x_of` places values.
void draw_ruling(QPainter& painter, double from, double to, double base, const std::function<double(double)>& x_of);

/// The hollow pointer below it that marks the value before, or the usual one.
void draw_hollow_pointer(QPainter& painter, double x, double base);

}  // namespace bronvel
