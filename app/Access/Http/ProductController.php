<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Access\Application\Decisions;
use App\Access\Application\Draft;
use App\Access\Application\PolicyStore;
use App\Access\Application\Products;
use App\Access\Models\AccessRequest;
use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Sql\Printer;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final readonly class ProductController
{
    private const SAMPLE = 10;

    public function __construct(private PolicyStore $store, private Draft $draft)
    {
    }

    public function index(Request $request, #[CurrentUser] User $user): View
    {
        $policy = $this->store->compile($this->store->published());
        $products = Products::of($policy, $user);

        return view('access.products', [
            'products' => $products->visible(),
            'words' => mb_strtolower(mb_substr($request->query->getString('words'), 0, 100)),
        ]);
    }

    public function show(#[CurrentUser] User $user, string $name, Clusters $clusters): View
    {
        $policy = $this->store->compile($this->store->published());
        $drafted = $user->can('guard') ? $this->draft->document()->find(Kind::Products, $name) : null;
        $product = $policy->document->find(Kind::Products, $name) ?? ($drafted ?? abort(404));
        $mine =
            array_values(
                array_filter(
                    Products::of($policy, $user)->visible(),
                    static fn (array $one): bool => $one['product']->name === $product->name,
                ),
            )[0] ?? null;
        abort_if($mine === null && ! $user->can('guard'), 404);
        $one = $mine ?? Products::of($policy, $user)->one($product);
        $samples = [];
        $subject = Decisions::subjectOf($user);
        foreach ($one['views'] as ['table' => $table, 'columns' => $columns]) {
            [$slug, $schema, $view] = ObjectPath::parts($table->path);
            $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'practice')->first();
            if ($cluster instanceof Cluster) {
                $names = array_map(static fn (int|string $column): string => (new Printer())->name((string) $column), array_keys($columns));
                $sql = 'SELECT '.implode(', ', $names).' FROM '.(new Printer())->path([$schema, $view]).' LIMIT '.self::SAMPLE;
                try {
                    $samples[$table->path] = $clusters->for($user, 'product')->runner($cluster)?->run($sql, $schema)->result;
                } catch (SourceError $error) {
                    $samples[$table->path] = $error->getMessage();
                }
            }
        }

        return view('access.product', [
            'product' => $product,
            'one' => $one,
            'samples' => $samples,
            'subject' => $subject,
            'grants' => $user->can('guard') && $product->texts('audience') !== []
                    ? Products::grants(
                        $this->store->compile(
                            $this->draft->document()->find(Kind::Products, $name) instanceof Item
                                ? $this->draft->document()
                                : $policy->document,
                        ),
                        $drafted ?? $product,
                    )
                    : [],
            'asked' => AccessRequest::query()
                ->where('subject', $subject)
                ->where('object', "product:{$name}")
                ->where('state', 'open')
                ->exists(),
        ]);
    }
}
