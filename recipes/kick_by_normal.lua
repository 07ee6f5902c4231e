-- Kick away what touches, straight off the face that
-- was hit.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15,
           tip = "speed that it gives" },
}

function on.touch(hit)
  -- The normal points away from the other body:
  -- towards it is the other way.
  local other = hit.other
  local push = hit.normal * -dials.kick * other.mass
  other:impulse(push, hit.point)
end
