<?php

declare(strict_types=1);

namespace App\Storage\Http;

use App\Estate\Connectors\SourceError;
use App\Ledger\Changes\Refused;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * From a page of advice to the change it proposes, or back with the reason why there is none.
 */
trait ProposesChanges
{
    /**
     * @param  callable(User): Change  $make
     */
    private function proposed(Request $request, string $back, callable $make): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        try {
            $change = $make($user);
        } catch (Refused|SourceError $error) {
            return redirect($back)->with('failed', $error->getMessage());
        }

        return redirect(address('change.show', $change->id))->with('done',
            'The change is proposed. Nothing was touched; rehearse it next.');
    }
}
