-- At each stroke of the clock the bell tells the
-- crew, one after the other.
dials {
  gap = { 0.12, unit = "s", from = 0, to = 0.5,
          tip = "from one cask to the next" },
}

function on.cue(name)
  if name ~= "stroke" then return end
  sound("bell")
  puff(body.position, 0.8)
  for i, cask in ipairs(scene:tagged("crew")) do
    tell_in((i - 1) * dials.gap, cask, "hop",
        1 + 0.25 * i)
  end
end
