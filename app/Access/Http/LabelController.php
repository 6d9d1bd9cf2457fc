<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\AccessAudit;
use App\Access\Application\Detections;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\VocabularyGuard;
use App\Access\Http\Requests\AssignLabelRequest;
use App\Access\Http\Requests\DecideDetectionRequest;
use App\Access\Http\Requests\FixLabelRequest;
use App\Access\Http\Requests\RenameLabelRequest;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\Vocabulary;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Label keys and the labels on objects: which are outside of the vocabulary, which columns lack one.
 */
final readonly class LabelController
{
    public function __construct(private PolicyStore $store, private Draft $draft, private Detections $detections)
    {
    }

    public function index(Request $request): View
    {
        $document = $this->draft->document();
        $policy = $this->store->compile($document);
        $stray = $uses = $free = [];
        foreach ($document->all(Kind::Labels) as $label) {
            $uses[$label->text('key')] = ($uses[$label->text('key')] ?? 0) + 1;
            if (DocumentCheck::labelTrouble($document, $label) !== null) {
                $stray[$label->text('key')][] = $label;
            }
            if ($document->find(Kind::Vocabulary, $label->text('key')) === null) {
                $free[$label->text('key')] = ($free[$label->text('key')] ?? 0) + 1;
            }
        }
        $found = $rejected = [];
        foreach ($this->detections->all() as $path => $detection) {
            $lines = array_column($policy->labelLines($path), 0);
            $isLabelled =
                array_filter($lines, static fn (string $key): bool => $key === 'personal' || str_starts_with($key, 'personal/')) !== [];
            $label = $document->find(Kind::Labels, Vocabulary::labelName($path, $detection->key));
            if ($label?->text('state') === 'rejected') {
                $rejected[$path] = $detection;
            } elseif (! $isLabelled) {
                $found[$path] = $detection;
            }
        }

        return view('access.labels', [
            'document' => $document,
            'stray' => $stray,
            'uses' => $uses,
            'free' => $free,
            'found' => $found,
            'rejected' => $rejected,
            'detected' => array_filter(
                $document->all(Kind::Labels),
                static fn (Item $label): bool => $label->text('origin') === 'detected' && $label->text('state') === 'accepted',
            ),
            'looked' => count($policy->catalog->tables),
        ]);
    }

    /** For those to whom a key is delegated: puts it on an object, in the draft. */
    public function assign(AssignLabelRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $mine = array_map(static fn (Item $key): string => $key->name, VocabularyGuard::delegated($this->store, $user));
        abort_unless(in_array($data['key'], $mine, true), 403, 'This key may be assigned by others only.');
        $on = strtolower($data['on']);
        $item = Item::of(Kind::Labels, Vocabulary::labelName($on, $data['key']), [
            'on' => $on,
            'key' => $data['key'],
            'value' => $data['value'],
            'origin' => 'set',
            'state' => 'accepted',
        ]);
        if (! ($item instanceof Item) || ! $this->store->compile($this->draft->document())->catalog->has($on)) {
            return back()->withErrors([
                'value' => $item instanceof Item ? "There is no {$on} in the catalog. Nothing was changed." : "{$item[0]} Nothing was "
                    .'changed.',
            ]);
        }
        $this->draft->put($item, $user);

        return redirect(address('access.explain').'?object='.urlencode($on))->with(
            'done',
            "{$data['key']} = {$data['value']} is in the draft for {$on}. It takes effect when a steward publishes.",
        );
    }

    /** Gives stray labels a value of the vocabulary, one or many at once. */
    public function fix(FixLabelRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $document = $this->draft->document();
        $items = [];
        foreach ($data['labels'] as $name) {
            $label = $document->find(Kind::Labels, $name);
            $item = $label === null ? null : Item::of(Kind::Labels, $name, ['value' => $data['value']] + $label->fields);
            if ($item instanceof Item) {
                $items[] = $item;
            }
        }
        $this->draft->take($items, [], $user);

        return redirect(address('label.index'))->with(
            'done',
            count($items).' '.(count($items) === 1 ? 'label has' : 'labels have')." the value {$data['value']} in the draft.",
        );
    }

    public function detected(DecideDetectionRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $all = $this->detections->all();
        $policy = $this->store->compile($this->draft->document());
        $items = [];
        foreach ($data['paths'] as $path) {
            array_push($items, ...isset($all[$path]) ? AccessAudit::labels($policy, $path, $all[$path], $data['answer']) : []);
        }
        $this->draft->take($items, [], $user);

        return redirect(address('label.index'))->with(
            'done',
            $data['answer'] === 'accepted'
                ? count($data['paths']).' columns carry a label in the draft.'
                : count($data['paths']).' columns will not be proposed again.',
        );
    }

    public function detect(): RedirectResponse
    {
        $found = $this->detections->all(true);

        return redirect(address('label.index'))->with('done', count($found).' columns look personal, by their names and sampled values.');
    }

    public function rename(RenameLabelRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $document = $this->draft->document();
        if ($document->find(Kind::Vocabulary, $data['to']) !== null) {
            return back()->withErrors(['to' => "There is a key {$data['to']} already. Nothing was changed."]);
        }
        $count = $this->draft->become(Vocabulary::rename($document, $data['from'], $data['to']), $user);

        return redirect(address('label.index'))->with(
            'done',
            "The key {$data['from']} is called {$data['to']} in the draft, everywhere it is used: {$count} items.",
        );
    }
}
