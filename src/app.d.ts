declare global {
  namespace App {}
}

export {};
