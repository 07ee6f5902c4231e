-- Kick away what touches, straight off the face that
-- was hit: it leaves at the kick's speed, however
-- fast it came.
dials {
  kick = { 4, unit = "m/s", from = 0, to = 15,
           tip = "speed at which it leaves" },
  who = { tag = "", tip = "who is kicked; "
       .. "none named: whoever touches" },
}

function on.touch(hit)
  local other = hit.other
  if dials.who and not other:has(dials.who) then
    return
  end
  -- The normal points away from the other body:
  -- towards it is the other way.
  local away = -hit.normal
  local missing = dials.kick - other.velocity:dot(away)
  if missing > 0 and other.kind == "dynamic" then
    other:impulse(away * missing * other.mass)
  end
end
