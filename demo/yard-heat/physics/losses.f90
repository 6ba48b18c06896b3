! What goes out through the wall.
module losses
  use kinds, only: wp
  use chamber, only: kiln_chamber
  use wall_layers, only: resistance_of_wall
  use units, only: kelvin
  implicit none
  private
  public :: loss_of
contains
  real(wp) function loss_of(room, air)
    type(kiln_chamber), intent(in) :: room
    real(wp), intent(in) :: air
    real(wp) :: yard
    yard = kelvin(15.0_wp)
    loss_of = room%wall*(air - yard)/resistance_of_wall(0.5_wp*(air + yard))
  end function loss_of
end module losses
