-- Kick away what touches, from this body's middle to
-- its own: it leaves at the kick's speed, however
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
  local away = (other.centre - body.centre):unit()
  local missing = dials.kick - other.velocity:dot(away)
  if missing > 0 and other.kind == "dynamic" then
    other:impulse(away * missing * other.mass)
  end
end
