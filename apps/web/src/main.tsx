document.getElementById('root')!.textContent = 'Eager Sieve';
