-- Kick away what touches, from this body's middle to
-- its own.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15,
           tip = "speed that it gives" },
}

function on.touch(hit)
  local other = hit.other
  local away = (other.centre - body.centre):unit()
  other:impulse(away * dials.kick * other.mass)
end
