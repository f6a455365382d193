CREATE FUNCTION "piece_summary"(document jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT jsonb_build_object(
    'kind', document->'kind',
    'sheets', coalesce(
      (SELECT jsonb_agg(jsonb_build_object('name', s->'name', 'width', s->'width', 'height', s->'height') ORDER BY n)
       FROM jsonb_array_elements(CASE jsonb_typeof(document->'sheets') WHEN 'array' THEN document->'sheets' ELSE '[]' END)
         WITH ORDINALITY AS t(s, n)),
      '[]'::jsonb))
$$;--> statement-breakpoint
ALTER TABLE "pieces" ADD COLUMN "summary" jsonb GENERATED ALWAYS AS (piece_summary(document)) STORED NOT NULL;
