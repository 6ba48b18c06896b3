! Common brick of red clay.
module red_brick_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: red_brick
  type, extends(material) :: red_brick
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type red_brick
contains
  pure real(wp) function conductivity(self, temperature)
    class(red_brick), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.62_wp + (0.00021_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(red_brick), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 840.0_wp + 0.21_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(red_brick), intent(in) :: self
    density = 1750.0_wp
  end function density
end module red_brick_material
