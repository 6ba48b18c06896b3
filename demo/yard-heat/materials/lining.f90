! Light bricks that keep the heat in.
module lining_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: lining
  type, extends(material) :: lining
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type lining
contains
  pure real(wp) function conductivity(self, temperature)
    class(lining), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.19_wp + (0.00012_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(lining), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 960.0_wp + 0.17_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(lining), intent(in) :: self
    density = 640.0_wp
  end function density
end module lining_material
