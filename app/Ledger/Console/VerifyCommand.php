<?php

declare(strict_types=1);

namespace App\Ledger\Console;

use App\Ledger\Ledger;
use Illuminate\Console\Command;

final class VerifyCommand extends Command
{
    protected $signature = 'ledger:verify';

    protected $description = 'Checks that no entry of the ledger was changed, removed or put in';

    public function handle(Ledger $ledger): int
    {
        $result = $ledger->verify();
        if ($result['brokenAt'] !== null) {
            $this->error("The chain breaks at entry {$result['brokenAt']}: it, or the one before it, was changed, removed or put in.");

            return self::FAILURE;
        }
        $this->line("All {$result['entries']} entries fit the chain.");

        return self::SUCCESS;
    }
}
