-- Push by force: a steady force while the action is
-- held. Heavy bodies answer slowly, and drag sets a
-- top speed.
-- needs action: push (space)
dials {
  strength = { 60, unit = "N", from = 0, to = 400,
               tip = "how hard it pushes" },
  by = { action = "push", tip = "what it answers to" },
}

function on.tick()
  -- A force acts over the whole tick by itself: do
  -- not multiply it by dt.
  if dials.by and held(dials.by) then
    body:force(body.forward * dials.strength)
  end
end
