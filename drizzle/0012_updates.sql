CREATE FUNCTION brindle_notify() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('brindle_changed', TG_ARGV[0]);
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER "bakes_notify" AFTER INSERT OR UPDATE OF "state", "tiles", "message" OR DELETE ON "bakes" FOR EACH STATEMENT EXECUTE FUNCTION brindle_notify('bakes');
--> statement-breakpoint
CREATE TRIGGER "bake_tiles_notify" AFTER INSERT ON "bake_tiles" FOR EACH STATEMENT EXECUTE FUNCTION brindle_notify('bakes');
--> statement-breakpoint
CREATE TRIGGER "bake_workers_notify" AFTER INSERT OR DELETE ON "bake_workers" FOR EACH ROW EXECUTE FUNCTION brindle_notify('workers');
--> statement-breakpoint
CREATE TRIGGER "arriving_notify" AFTER INSERT OR UPDATE OR DELETE ON "arriving" FOR EACH STATEMENT EXECUTE FUNCTION brindle_notify('arriving');
