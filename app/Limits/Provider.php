<?php

declare(strict_types=1);

namespace App\Limits;

use App\Estate\Limits\StatementGate;
use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\ProofBody;
use App\Limits\Application\AccountLimits;
use App\Limits\Application\LimitFindings;
use App\Limits\Application\LimitGate;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->bind(StatementGate::class, LimitGate::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            LimitFindings::SOURCE,
            weighed: 'measured',
            evidenceFirst: true,
            home: static fn (Finding $finding): array => ['Limits', address('limit.index')],
        )));
        $this->callAfterResolving(ChangeKinds::class, static function (ChangeKinds $kinds): void {
            $kinds->register(new ChangeKind(
                AccountLimits::KIND,
                AccountLimits::class,
                ability: 'limit',
                measured: false,
                proofTitle: 'Proof, with a test user',
                limitsTitle: 'What is to be known',
                address: static fn (): string => address('limit.accounts'),
            ));
            $kinds->registerBody(new ProofBody(
                AccountLimits::BODY,
                'limits.proof-accounts',
                static fn (ProofRecord $proof): string => $proof->holds ? 'every limit held' : 'not every limit held: see below',
            ));
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Meter, 'limit', 'Limits', 'limit.index', rank: 49),
            new Page(Bench::Meter, 'allowance', 'Allowances', 'allowance.index', rank: 49),
        ];
    }

    protected function abilities(): array
    {
        return ['limit' => [Role::Engineer, Role::Owner], 'lift' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('limit:check')->everyFiveMinutes()->withoutOverlapping(10);
    }
}
