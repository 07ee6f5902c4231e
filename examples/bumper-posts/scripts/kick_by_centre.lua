-- Kick away what touches, from this body's middle to its own.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15, tip = "speed that it gives" },
}

function on.touch(hit)
  local away = (hit.other.centre - body.centre):unit()
  hit.other:impulse(away * dials.kick * hit.other.mass)
end
