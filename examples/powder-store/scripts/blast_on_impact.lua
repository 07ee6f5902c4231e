-- Blast on a hard impact, then gone.
dials {
  blow = { 3, unit = "m/s", from = 0, to = 20,
           tip = "closing speed that sets it off" },
  impulse = { 40, unit = "N·s", from = 0, to = 400,
              tip = "at the middle of the blast" },
  radius = { 3, unit = "m", from = 0.5, to = 12,
             tip = "how far it is felt" },
  lift = { 0.5, unit = "m", from = 0, to = 3,
    tip = "throws up, as if from below" },
}

function on.touch(hit)
  if hit.speed < dials.blow then return end
  puff(body.position, dials.radius)
  sound("thump")
  scene:blast { at = body.position,
      radius = dials.radius, impulse = dials.impulse,
      lift = dials.lift, except = body }
  body:remove()
end
