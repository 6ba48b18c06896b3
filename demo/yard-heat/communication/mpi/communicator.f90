! Several processes share the columns of the kiln.
module communicator
  use kinds, only: wp
  use mpi
  implicit none
  private
  public :: begin_together, end_together, my_number, how_many, share_with_all
contains
  subroutine begin_together()
    integer :: state
    call mpi_init(state)
  end subroutine begin_together
  subroutine end_together()
    integer :: state
    call mpi_finalize(state)
  end subroutine end_together
  integer function my_number()
    integer :: state
    call mpi_comm_rank(mpi_comm_world, my_number, state)
  end function my_number
  integer function how_many()
    integer :: state
    call mpi_comm_size(mpi_comm_world, how_many, state)
  end function how_many
  ! Every process knows all values afterwards, whoever worked them out: column c is that of process mod(c - 1, n), and
  ! the others have nothing there, so that the sum is the value itself.
  subroutine share_with_all(values)
    real(wp), intent(inout) :: values(:)
    real(wp) :: mine(size(values))
    integer :: state
    mine = values
    call mpi_allreduce(mine, values, size(values), mpi_double_precision, mpi_sum, mpi_comm_world, state)
  end subroutine share_with_all
end module communicator
