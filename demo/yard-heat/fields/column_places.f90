! Where a column stands has a say in how much of the air reaches it.
module column_places
  use kinds, only: wp
  implicit none
  private
  public :: share_of_air, clay_of
contains
  pure real(wp) function share_of_air(column, columns)
    integer, intent(in) :: column, columns
    real(wp) :: place
    place = real(2*column - columns - 1, wp)/real(max(1, columns), wp)
    share_of_air = 1.0_wp - 0.25_wp*place*place
  end function share_of_air
  pure function clay_of(column) result(name)
    integer, intent(in) :: column
    character(len=12) :: name
    character(len=12), parameter :: names(4) = &
      [character(len=12) :: 'red_brick', 'yellow_brick', 'roof_tile', 'stoneware']
    name = names(1 + modulo(column, 4))
  end function clay_of
end module column_places
