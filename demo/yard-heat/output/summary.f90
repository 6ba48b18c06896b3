! What came of a firing.
module summary
  use kinds, only: wp
  use protocol, only: say, say_number
  use sums, only: total
  use norms, only: largest_difference
  implicit none
  private
  public :: tell_summary
contains
  subroutine tell_summary(faces, cores, hottest)
    real(wp), intent(in) :: faces(:), cores(:), hottest
    call say_number('hottest air', hottest)
    call say_number('mean of the cores', total(cores)/real(size(cores), wp))
    call say_number('warmest core', maxval(cores))
    call say_number('coldest core', minval(cores))
    if (largest_difference(faces, cores) > 400.0_wp) call say('the bricks crack')
  end subroutine tell_summary
end module summary
