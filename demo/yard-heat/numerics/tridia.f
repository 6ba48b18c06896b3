C     SOLVES A TRIDIAGONAL SYSTEM OF N EQUATIONS, AS IN THE HANDBOOKS.
C     A: BELOW THE DIAGONAL, B: ON IT, C: ABOVE IT, D: THE RIGHT SIDE.
C     D HAS THE SOLUTION AFTERWARDS; B AND C ARE CHANGED.
      SUBROUTINE TRIDIA(N, A, B, C, D)
      INTEGER N, I
      DOUBLE PRECISION A(N), B(N), C(N), D(N), F
      DO 10 I = 2, N
         F = A(I)/B(I-1)
         B(I) = B(I) - F*C(I-1)
         D(I) = D(I) - F*D(I-1)
   10 CONTINUE
      D(N) = D(N)/B(N)
      DO 20 I = N-1, 1, -1
         D(I) = (D(I) - C(I)*D(I+1))/B(I)
   20 CONTINUE
      RETURN
      END
