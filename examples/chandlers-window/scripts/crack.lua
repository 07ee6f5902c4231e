-- Says how it broke.
function on.crack(pieces, how)
  print(how.bonds, "bonds parted,", #pieces,
      "pieces; strained", how.use,
      "times its strength")
  sound("glass", 0.8)
  puff(how.point, 0.3)
end
